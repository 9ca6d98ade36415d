<script lang="ts">
  // Where an instructor writes one exercise: fetched, put on the core, and its parts in the order of the work.
  import { onDestroy } from 'svelte'
  import { api } from '../api'
  import { Core } from '../core/core'
  import { session } from '../state/session.svelte'
  import { Workshop } from '../state/workshop.svelte'
  import Loading from '../parts/Loading.svelte'
  import WorkshopFrame from '../parts/WorkshopFrame.svelte'

  let { params }: { params: { owner: string; name: string; part?: string } } = $props()
  const core = new Core()
  const judge = new Core()
  // svelte-ignore state_referenced_locally
  const workshop = api
    .writing(params.owner, params.name)
    .then((w) => new Workshop(core, judge, session.person!.login, w))
  onDestroy(() => {
    void workshop.then(
      (w) => w.end(),
      () => {},
    )
    core.end()
    judge.end()
  })
</script>

<Loading what={workshop}>
  {#snippet children(w)}<WorkshopFrame workshop={w} part={params.part ?? 'points'} />{/snippet}
</Loading>
