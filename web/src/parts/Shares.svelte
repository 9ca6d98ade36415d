<script lang="ts">
  // Whom an exercise is shared with, and what they may do.
  import { api, type Share } from '../api'
  import { Attempt } from '../state/attempt.svelte'
  import Loading from './Loading.svelte'

  let { owner, exercise }: { owner: string; exercise: string } = $props()
  // svelte-ignore state_referenced_locally
  let list = $state(api.shares(owner, exercise))
  let login = $state('')
  let may = $state<Share['may']>('read')
  const attempt = new Attempt()
  const words = { read: 'may read and copy', change: 'may change' }

  async function act(work: () => Promise<unknown>) {
    if (await attempt.do(work)) list = api.shares(owner, exercise)
  }
  async function share(event: Event) {
    event.preventDefault()
    await act(() => api.share(owner, exercise, login, may))
    login = ''
  }
</script>

<Loading what={list}>
  {#snippet children(shares)}
    <ul class="flex flex-col gap-1 text-sm" aria-label="Shared with">
      {#each shares as s (s.login)}
        <li class="flex items-center gap-2">
          <span class="grow">{s.name} <span class="opacity-80">({s.login})</span> {words[s.may]}</span><button
            class="btn btn-xs"
            onclick={() => act(() => api.endShare(owner, exercise, s.login))}>Take back</button
          >
        </li>
      {:else}<li class="opacity-80">Shared with nobody.</li>{/each}
    </ul>
  {/snippet}
</Loading>
<form class="flex flex-wrap items-end gap-2" onsubmit={share} aria-label="Share with a colleague">
  <label class="flex flex-col text-sm">Login <input class="input input-sm w-36" required bind:value={login} /></label>
  <label class="flex flex-col text-sm"
    >who <select class="select select-sm w-44" bind:value={may}
      ><option value="read">may read and copy</option><option value="change">may change</option></select
    ></label
  >
  <button class="btn btn-sm" disabled={attempt.busy}>Share</button>
</form>
{#if attempt.problem}<p role="alert" class="text-sm text-error">{attempt.problem}</p>{/if}
