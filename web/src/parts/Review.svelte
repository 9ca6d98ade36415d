<script lang="ts">
  // What an instructor does with a hand-in: a mark by hand, comments, the next one. A learner reads what was said.
  import { api, type Handin } from '../api'
  import { Attempt } from '../state/attempt.svelte'
  import { session } from '../state/session.svelte'
  import Regrade from './Regrade.svelte'

  let { handin: h, changed }: { handin: Handin; changed: () => void } = $props()
  // svelte-ignore state_referenced_locally
  let earned = $state(h.override?.earned ?? h.earned ?? 0)
  let reason = $state('')
  let line = $state(0)
  let text = $state('')
  const attempt = new Attempt()
  let marking = $state(false)

  const change = async (work: () => Promise<unknown>) => {
    if (await attempt.do(work)) changed()
  }
  /** The queue is walked by keys, where none of them is a letter being written. */
  function key(event: KeyboardEvent) {
    if (
      !session.teaches ||
      (event.target as HTMLElement).closest('input, textarea, select, [contenteditable]') ||
      event.ctrlKey ||
      event.metaKey ||
      event.altKey
    )
      return
    const to = { j: h.after, k: h.before }[event.key]
    if (to) location.hash = '#/handin/' + to
    if (event.key === 'm') marking = true
  }
</script>

<svelte:window onkeydown={key} />

{#if h.override}
  <p class="mb-3 border-l-4 border-primary pl-3">
    Mark given by hand, by {h.override.by}: <b>{h.override.earned} of {h.points}</b> (graded: {h.earned}). “{h.override
      .reason}”
  </p>
{:else if h.late && h.counted !== h.earned}
  <p class="mb-3 border-l-4 border-warning pl-3">
    {h.late}
    {h.late === 1 ? 'day' : 'days'} late: of {h.earned} earned, {h.counted} count.
  </p>
{/if}
{#if h.comments?.length}
  <ul class="mb-3 flex flex-col gap-1" aria-label="Comments">
    {#each h.comments as c (c.id)}
      <li class="border-l-4 border-info pl-3 text-sm">
        {#if c.line}<b class="mr-2">{c.rung ? `rung ${c.rung}, line ${c.line}` : `line ${c.line}`}</b>
        {/if}{c.text} <span class="opacity-80">— {c.by}</span>
        {#if session.teaches && c.by === session.person?.name}<button
            class="btn btn-ghost btn-xs"
            onclick={() => change(() => api.removeComment(h.id, c.id))}>Take back</button
          >{/if}
      </li>
    {/each}
  </ul>
{/if}
{#if session.teaches}
  <section aria-label="Review" class="mb-2 flex flex-col gap-2 text-sm print:hidden">
    <div class="flex flex-wrap items-center gap-2">
      <a class="btn btn-sm" class:btn-disabled={!h.before} aria-disabled={!h.before} href="#/handin/{h.before || h.id}"
        >Before <kbd class="kbd kbd-xs">k</kbd></a
      >
      <a class="btn btn-sm" class:btn-disabled={!h.after} aria-disabled={!h.after} href="#/handin/{h.after || h.id}"
        >Next <kbd class="kbd kbd-xs">j</kbd></a
      >
      <button class="btn btn-sm" aria-expanded={marking} onclick={() => (marking = !marking)}
        >Mark by hand <kbd class="kbd kbd-xs">m</kbd></button
      >
      {#if h.state === 'graded'}<Regrade exercise={h.exercise} handin={h.id} {changed} />{/if}
      {#if h.override}<button class="btn btn-sm" onclick={() => change(() => api.takeBack(h.id))}
          >Back to the graded mark</button
        >{/if}
      <form
        class="ml-auto flex flex-wrap items-center gap-2"
        onsubmit={(e) => {
          e.preventDefault()
          void change(() => api.comment(h.id, line, text))
        }}
      >
        <label class="flex items-center gap-1"
          >Line <input
            type="number"
            min="0"
            class="input input-sm w-20"
            bind:value={line}
            title="0 is all of it"
          /></label
        >
        <input
          class="input input-sm w-64"
          aria-label="Comment"
          placeholder="What should the learner read?"
          required
          bind:value={text}
        />
        <button class="btn btn-sm">Say</button>
      </form>
    </div>
    {#if marking}
      <form
        class="flex flex-wrap items-center gap-2"
        onsubmit={(e) => {
          e.preventDefault()
          void change(() => api.override(h.id, earned, reason))
        }}
      >
        <label class="flex items-center gap-1"
          >Mark <input
            type="number"
            min="0"
            step="0.01"
            class="input input-sm w-24"
            required
            bind:value={earned}
          /></label
        >
        <label class="flex grow items-center gap-1"
          >Reason <input class="input input-sm grow" required minlength="3" bind:value={reason} /></label
        >
        <button class="btn btn-primary btn-sm">Give this mark</button>
      </form>
    {/if}
    {#if attempt.problem}<p class="text-error" role="alert">{attempt.problem}</p>{/if}
  </section>
{/if}
