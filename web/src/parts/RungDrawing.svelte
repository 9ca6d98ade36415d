<script lang="ts">
  // One rung, with the power in it: wires that carry power are yellow and thick, contacts that pass it are filled.
  import type { Item, Rung } from '../core/core'

  type Flow = { in: boolean; out: boolean; closed: boolean }
  let { rung, flow, face = () => '', words = () => '', decides = () => false }: {
    rung: Rung
    /** The power at an element, by where its text begins; undefined while nothing runs. */
    flow: (start: number) => Flow | undefined
    /** What a timer or counter shows. */
    face?: (label: string, type: string) => string
    /** What is said below an element. */
    words?: (start: number) => string
    decides?: (start: number) => boolean
  } = $props()

  const letter = 7.4
  const row = 50
  const above = 28
  const items = $derived(rung.Items ?? [])
  const heading = (i: Item) => (i.Type ? `${i.Label} ${i.Type}` : i.Label)
  const longest = (list: string[] | null) => Math.max(0, ...(list ?? []).map((s) => s.length))

  function width(i: Item) {
    if (i.Kind !== 'box') return Math.max(i.Label.length, 4, words(i.Span.Start).length * 0.85) + 3
    return Math.max(longest(i.Inputs) + longest(i.Outputs) + 4, heading(i).length, face(i.Label, i.Type).length) + 5
  }

  /** Where each column begins. */
  const x = $derived.by(() => {
    const widths = Array<number>(rung.Columns).fill(6)
    for (const i of items) widths[i.Column] = Math.max(widths[i.Column], width(i))
    const at = [24]
    for (const w of widths) at.push(at[at.length - 1] + w * letter)
    return at
  })
  const right = $derived(x[rung.Columns] + 12)
  const height = $derived(rung.Rows * row + 14)
  const y = (r: number) => r * row + above

  const behind = (r: number, boundary: number) => items.filter((i) => i.Row === r && i.Column + 1 === boundary)
  const before = (r: number, boundary: number) => items.filter((i) => i.Row === r && i.Column === boundary)
  const out = (i: Item) => flow(i.Span.Start)?.out ?? false
  const closed = (i: Item) => flow(i.Span.Start)?.closed ?? false
  const into = (i: Item) => flow(i.Span.Start)?.in ?? false

  /** A wire carries what the element before it passes, or what the one behind it gets. */
  function lit(w: { Row: number; From: number; To: number }): boolean {
    const from = behind(w.Row, w.From)
    if (from.length) return from.some(out)
    const to = before(w.Row, w.To)
    if (to.length) return to.some(into)
    return w.From === 0 || joined(w.From, w.Row)
  }
  const joined = (boundary: number, r: number) =>
    (rung.Links ?? []).some((l) => l.Boundary === boundary && r >= l.FromRow && r <= l.ToRow && litLink(l))
  const litLink = (l: { Boundary: number; FromRow: number; ToRow: number }) =>
    items.some((i) => i.Row >= l.FromRow && i.Row <= l.ToRow && ((i.Column === l.Boundary && into(i)) || (i.Column + 1 === l.Boundary && out(i))))
  const alive = $derived(items.some((i) => flow(i.Span.Start)))
  const state = (i: Item) => (!alive ? '' : i.Kind === 'coil' ? (into(i) ? ', gets power' : ', gets no power') : out(i) ? ', passes power' : closed(i) ? ', closed, gets no power' : ', open')
</script>

<svg width={right + 14} {height} viewBox="0 0 {right + 14} {height}" class="rung block" role="img" aria-label="Rung {rung.Title || 'at line ' + rung.Line}">
  <path d="M14 2V{height - 2}M{right} 2V{height - 2}" class="rail" />
  <path d="M14 {y(0)}H{x[0]}" class="wire" class:lit={alive} />
  <path d="M{x[rung.Columns]} {y(0)}H{right}" class="wire" class:lit={behind(0, rung.Columns).some(out)} />
  {#each rung.Wires ?? [] as w, n (n)}
    <path d="M{x[w.From]} {y(w.Row)}H{x[w.To]}" class="wire" class:lit={alive && lit(w)} />
  {/each}
  {#each rung.Links ?? [] as l, n (n)}
    <path d="M{x[l.Boundary]} {y(l.FromRow)}V{y(l.ToRow)}" class="wire" class:lit={litLink(l)} />
  {/each}
  {#each items as i (i.Span.Start + ' ' + i.Column + ' ' + i.Row)}
    {@const from = x[i.Column]}
    {@const to = x[i.Column + 1]}
    {@const at = y(i.Row)}
    {@const middle = (from + to) / 2}
    <g aria-label="{i.Kind} {i.Label || 'without a name'}{state(i)}">
      {#if i.Kind === 'box'}
        {@const pins = Math.max(i.Inputs?.length ?? 0, i.Outputs?.length ?? 0)}
        <path d="M{from} {at}H{from + 8}" class="wire" class:lit={into(i)} />
        <path d="M{to - 8} {at}H{to}" class="wire" class:lit={out(i)} />
        <rect x={from + 8} y={at - 15} width={to - from - 16} height={pins * 22 + 8 + (face(i.Label, i.Type) ? 18 : 0)} class="body" class:passes={out(i)} class:decides={decides(i.Span.Start)} />
        <text x={middle} y={at - 19} class="name">{heading(i)}</text>
        {#each Array(pins) as _, n (n)}
          <text x={from + 13} y={at + 4 + n * 22} class="pin">{i.Inputs?.[n] ?? ''}</text>
          <text x={to - 13} y={at + 4 + n * 22} class="pin end">{i.Outputs?.[n] ?? ''}</text>
        {/each}
        {#if face(i.Label, i.Type)}<text x={middle} y={at + 4 + pins * 22} class="face">{face(i.Label, i.Type)}</text>{/if}
      {:else}
        {#if alive || decides(i.Span.Start)}
          <rect x={middle - 15} y={at - 12} width="30" height="24" rx="3" class="ground" class:passes={i.Kind === 'coil' ? into(i) : closed(i)} class:decides={decides(i.Span.Start)} />
        {/if}
        <path d="M{from} {at}H{middle - 8}" class="wire" class:lit={into(i)} />
        <path d="M{middle + 8} {at}H{to}" class="wire" class:lit={out(i)} />
        {#if i.Kind === 'coil'}
          <path d="M{middle - 6} {at - 10}q-7 10 0 20M{middle + 6} {at - 10}q7 10 0 20" class="symbol" />
        {:else}
          <path d="M{middle - 6} {at - 9}v18M{middle + 6} {at - 9}v18" class="symbol" />
        {/if}
        <text x={middle} y={at + 4} class="mark">{i.Mark}</text>
        <text x={middle} y={at - 16} class="name">{i.Label || (i.Mark === 'P' || i.Mark === 'N' ? '' : '?')}</text>
        {#if words(i.Span.Start)}<text x={middle} y={at + 22} class="words">{words(i.Span.Start)}</text>{/if}
      {/if}
    </g>
  {/each}
</svg>

<style>
  .rung { font-family: var(--font-mono); font-size: 12.5px; fill: none; }
  .rail { stroke: var(--color-base-content); stroke-width: 3; }
  .wire { stroke: color-mix(in oklab, var(--color-base-content) 55%, transparent); stroke-width: 1.5; }
  .lit { stroke: var(--color-primary); stroke-width: 4.5; }
  .symbol { stroke: var(--color-base-content); stroke-width: 2; }
  .body { stroke: var(--color-base-content); stroke-width: 1.5; fill: var(--color-base-100); }
  .ground { fill: var(--color-base-200); }
  .ground.passes, .body.passes { fill: color-mix(in oklab, var(--color-primary) 55%, var(--color-base-100)); }
  .decides { stroke: var(--color-error); stroke-width: 3; }
  text { fill: var(--color-base-content); }
  .name, .mark, .face, .words { text-anchor: middle; }
  .face { font-weight: 700; }
  .words { font-size: 11px; }
  .end { text-anchor: end; }
</style>
