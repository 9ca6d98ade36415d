<script lang="ts">
  // A hand-in drawn, with what was said of each rung or network; an instructor says it here.
  import { api, type Handin } from '../api'
  import type { Drawn, PlacedNetwork, Rung } from '../core/core'
  import { Attempt } from '../state/attempt.svelte'
  import { session } from '../state/session.svelte'
  import NetworkDrawing from './NetworkDrawing.svelte'
  import RungDrawing from './RungDrawing.svelte'

  let { handin: h, drawn, changed }: { handin: Handin; drawn: Drawn; changed: () => void } = $props()
  type Part = Rung | PlacedNetwork
  const parts = $derived<Part[]>([...drawn.rungs, ...drawn.networks].sort((a, b) => a.start - b.start))
  const isRung = (p: Part): p is Rung => 'items' in p.geometry
  const what = (p: Part) => (isRung(p) ? 'Rung' : 'Network')
  let writing = $state('')
  let text = $state('')
  const attempt = new Attempt()

  /** A comment stands at the rung or network within whose lines it is; one on a line of text stands there. */
  const last = (n: number) => (parts[n + 1]?.line ?? Infinity) - 1
  const said = (n: number) =>
    (h.comments ?? []).filter((c) => (c.rung || !isRung(parts[n])) && c.line >= parts[n].line && c.line <= last(n))

  async function say(event: Event, part: Part) {
    event.preventDefault()
    if (!(await attempt.do(() => api.comment(h.id, part.line, text)))) return
    writing = text = ''
    changed()
  }
</script>

<div class="flex flex-col gap-4" role="group" aria-label="The program, drawn">
  {#each parts as r, n (r.unit + ':' + r.number)}
    {@const place = r.unit + ':' + r.number}
    {@const name = `${what(r).toLowerCase()} ${r.number + 1}${r.geometry.title ? ' ' + r.geometry.title : ''}`}
    <div>
      <p class="flex items-center gap-3 text-sm">
        <b>{what(r)} {r.number + 1} {r.geometry.title}</b>
        <span class="opacity-80">line {r.line}</span>
        {#if session.teaches}<button
            class="btn btn-ghost btn-xs"
            aria-expanded={writing === place}
            aria-label="Comment on {name}"
            onclick={() => (writing = writing === place ? '' : place)}>Comment</button
          >{/if}
      </p>
      <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
      <div class="overflow-x-auto" role="region" aria-label="The drawing of {name}" tabindex="0">
        {#if isRung(r)}<RungDrawing rung={r} flow={() => undefined} />{:else}<NetworkDrawing network={r} />{/if}
      </div>
      {#each said(n) as c (c.id)}<p class="mt-1 border-l-4 border-info pl-3 text-sm">
          {c.text} <span class="opacity-80">— {c.by}</span>
        </p>{/each}
      {#if writing === place}
        <form class="mt-1 flex flex-wrap gap-2" onsubmit={(e) => say(e, r)}>
          <input
            class="input input-sm grow"
            aria-label="Comment on {name}"
            placeholder="What should the learner read about this {what(r).toLowerCase()}?"
            required
            bind:value={text}
            {@attach (e) => (e as HTMLInputElement).focus()}
          />
          <button class="btn btn-primary btn-sm">Say it</button>
        </form>
        {#if attempt.problem}<p class="text-error" role="alert">{attempt.problem}</p>{/if}
      {/if}
    </div>
  {/each}
</div>
