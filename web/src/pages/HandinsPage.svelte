<script lang="ts">
  // A class's hand-ins to an exercise, newest first: all, or one learner's.
  import { api, type Handin } from '../api'
  import { Attempt } from '../state/attempt.svelte'
  import { session } from '../state/session.svelte'
  import { spoken } from '../zone'
  import Loading from '../parts/Loading.svelte'
  import Mark from '../parts/Mark.svelte'
  import TableFrame from '../parts/TableFrame.svelte'

  let { params }: { params: { name: string } } = $props()
  let person = $state('')
  let older = $state<Handin[]>([])
  let next = $state<string | undefined>()
  const attempt = new Attempt()

  const learners = $derived(
    session.teaches
      ? api.members(session.class!.id).then((all) => all.filter((m) => m.role === 'learner'))
      : Promise.resolve([]),
  )
  const both = $derived(
    Promise.all([api.exercise(params.name), api.handins(params.name, person)]).then(([exercise, page]) => {
      older = []
      next = page.next
      return { exercise, items: page.items }
    }),
  )
  const more = () =>
    attempt.do(async () => {
      const page = await api.handins(params.name, person, next)
      older = [...older, ...page.items]
      next = page.next
    })
</script>

<Loading what={both}>
  {#snippet children({ exercise, items })}
    <p class="mb-1 text-sm"><a class="link" href="#/">The class</a></p>
    <div class="mb-5 flex flex-wrap items-end justify-between gap-x-6 gap-y-2">
      <div>
        <h1 class="mb-1 text-2xl font-semibold">{exercise.title}</h1>
        <p class="opacity-80">
          Hand-ins, newest first · <a class="link" href="#/exercise/{exercise.name}">open the exercise</a>
        </p>
      </div>
      {#await learners then list}
        <label class="flex items-center gap-2 text-sm"
          >Learner
          <select class="select select-sm w-48" bind:value={person}
            ><option value="">everybody</option>{#each list as m (m.login)}<option value={m.login}>{m.name}</option
              >{/each}</select
          >
        </label>
      {/await}
    </div>
    <TableFrame label="Hand-ins">
      <table class="table">
        <thead>
          <tr class="text-base-content"
            ><th scope="col">Learner</th><th scope="col">Hand-in</th><th scope="col">File</th><th scope="col"
              >Handed in</th
            ><th scope="col">Mark</th></tr
          >
        </thead>
        <tbody>
          {#each [...items, ...older] as h (h.id)}
            <tr>
              <th scope="row" class="font-medium whitespace-nowrap">{h.person.name}</th>
              <td>{h.number}</td>
              <td><a class="link font-mono text-sm" href="#/handin/{h.id}">{h.file}</a></td>
              <td class="whitespace-nowrap">{spoken(h.handedIn, session.class?.timeZone)}</td>
              <td
                >{#if h.earned !== undefined}<Mark earned={h.earned} points={h.points} />{:else}waiting{/if}</td
              >
            </tr>
          {:else}
            <tr><td colspan="5">{person ? 'Nothing was handed in yet.' : 'Nobody has handed in yet.'}</td></tr>
          {/each}
        </tbody>
      </table>
    </TableFrame>
    {#if next}<button class="btn btn-sm mt-3" onclick={more}>Older</button>{/if}
    {#if attempt.problem}<p class="alert mt-3" role="alert">{attempt.problem}</p>{/if}
  {/snippet}
</Loading>
