<script lang="ts">
  // What can be done with one exercise of the library as a whole.
  import { api, type Owned } from '../api'
  import { Attempt } from '../state/attempt.svelte'
  import { session } from '../state/session.svelte'
  import Shares from './Shares.svelte'

  let { exercise: e, done }: { exercise: Owned; done: () => void } = $props()
  const own = $derived(e.owner === session.person!.login || session.person!.role === 'administrator')
  const attempt = new Attempt()
  let dialog = $state<HTMLDialogElement>()
  let what = $state<'copy' | 'share' | 'withdraw' | 'discard'>('copy')
  let title = $state('')

  function ask(about: typeof what) {
    what = about
    title = e.title + ', copy'
    attempt.problem = ''
    dialog?.showModal()
  }
  async function act(work: () => Promise<unknown>) {
    if (!(await attempt.do(work))) return
    dialog?.close()
    done()
  }
  const copy = () =>
    act(async () => {
      const w = await api.beginExercise({ title, copy: e.owner + '/' + e.name })
      location.hash = `#/workshop/${w.owner}/${w.name}`
    })
</script>

<details class="dropdown dropdown-end text-left" name="exercise-menu">
  <summary class="btn btn-xs" aria-label="More for {e.title || e.name}">More</summary>
  <ul class="menu dropdown-content z-40 w-48 rounded-box border border-base-300 bg-base-100 p-1 shadow">
    <li><button onclick={() => ask('copy')}>Copy</button></li>
    <li><a href="/api/library/{e.owner}/{e.name}/zip" download>Give as a zip</a></li>
    {#if own}
      <li><button onclick={() => ask('share')}>Share</button></li>
      {#if e.withdrawn}
        <li><button onclick={() => act(() => api.offerAgain(e.owner, e.name))}>Offer again</button></li>
      {:else if e.revision}<li><button onclick={() => ask('withdraw')}>Withdraw</button></li>{/if}
      {#if e.writing}<li><button onclick={() => ask('discard')}>Discard the draft</button></li>{/if}
    {/if}
  </ul>
</details>
<dialog bind:this={dialog} class="modal text-left" aria-label="{e.title}: {what}">
  <div class="modal-box flex flex-col gap-3">
    <h2 class="text-lg font-semibold">{e.title || e.name}</h2>
    {#if what === 'copy'}
      <label class="flex flex-col text-sm"
        >Title of the copy <input class="input input-sm w-full" bind:value={title} /></label
      >
      <button class="btn btn-primary btn-sm self-start" disabled={attempt.busy} onclick={copy}>Copy</button>
    {:else if what === 'share'}
      <Shares owner={e.owner} exercise={e.name} />
    {:else if what === 'withdraw'}
      <p>Learners see it no longer, in any class. What was handed in, and its marks, stay.</p>
      <button
        class="btn btn-sm self-start"
        disabled={attempt.busy}
        onclick={() => act(() => api.withdraw(e.owner, e.name))}>Withdraw</button
      >
    {:else}
      <p>
        {e.revision
          ? `What was changed since revision ${e.revision} is forgotten.`
          : 'It was never published: the whole exercise is forgotten.'}
      </p>
      <button
        class="btn btn-sm self-start"
        disabled={attempt.busy}
        onclick={() => act(() => api.discardWriting(e.owner, e.name))}>Discard</button
      >
    {/if}
    {#if attempt.problem}<p role="alert" class="text-sm text-error">{attempt.problem}</p>{/if}
    <form method="dialog"><button class="btn btn-ghost btn-sm">Close</button></form>
  </div>
</dialog>
