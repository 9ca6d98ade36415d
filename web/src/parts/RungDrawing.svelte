<script lang="ts">
  // One rung, with the power in it: wires that carry power are yellow and thick, contacts that pass it are filled. While it is
  // drawn on, the place of the cursor, what is chosen and what is wrong are shown as well.
  import type { Item, Rung, Spot } from '../core/core'

  type Flow = { in: boolean; out: boolean; closed: boolean }
  let { rung, flow, face = () => '', words = () => '', decides = () => false, width: room = 0, cursor = null, chosen = [], wrong = {}, editable = false }: {
    rung: Rung
    /** The power at an element, by where its text begins; undefined while nothing runs. */
    flow: (start: number) => Flow | undefined
    /** What a timer or counter shows. */
    face?: (label: string, type: string) => string
    /** What is said below an element. */
    words?: (start: number) => string
    decides?: (start: number) => boolean
    /** The right rail stands at least so far to the right. */
    width?: number
    /** The number of the spot at which the cursor stands. */
    cursor?: number | null
    /** The numbers of the items chosen. */
    chosen?: number[]
    /** What is wrong, by the number of the item. */
    wrong?: Record<number, { severity: string; words: string }>
    /** Each spot can be pointed at. */
    editable?: boolean
  } = $props()

  const letter = 7.4
  const row = 50
  const above = 28
  const g = $derived(rung.geometry)
  const items = $derived(g.Items ?? [])
  const at = (i: Item) => rung.start + i.Start
  const heading = (i: Item) => (i.Type ? `${i.Label} ${i.Type}` : i.Label)
  const longest = (list: string[] | null) => Math.max(0, ...(list ?? []).map((s) => s.length))

  function width(i: Item) {
    if (i.Kind !== 'box') return Math.max(i.Label.length, 4, words(at(i)).length * 0.85) + 3
    return Math.max(longest(i.Inputs) + longest(i.Outputs) + 4, heading(i).length, face(i.Label, i.Type).length) + 5
  }

  /** Where each column begins. The free wire before the last coils takes what is left of the room. */
  const x = $derived.by(() => {
    const widths = Array<number>(g.Columns).fill(6)
    for (const i of items) widths[i.Column] = Math.max(widths[i.Column], width(i))
    const free = g.Spots.find((s) => s.Item < 0 && s.Path.length === 1 && s.To > s.From)
    const sum = widths.reduce((a, b) => a + b, 0) * letter + 50
    if (free) widths[free.To - 1] += Math.max(0, room - sum) / letter
    const at = [24]
    for (const w of widths) at.push(at[at.length - 1] + w * letter)
    return at
  })
  const right = $derived(x[g.Columns] + 12)
  const height = $derived(g.Rows * row + 14)
  const y = (r: number) => r * row + above

  const behind = (r: number, boundary: number) => items.filter((i) => i.Row === r && i.Column + 1 === boundary)
  const before = (r: number, boundary: number) => items.filter((i) => i.Row === r && i.Column === boundary)
  const out = (i: Item) => flow(at(i))?.out ?? false
  const closed = (i: Item) => flow(at(i))?.closed ?? false
  const into = (i: Item) => flow(at(i))?.in ?? false

  /** A wire carries what the element before it passes, or what the one behind it gets. */
  function lit(w: { Row: number; From: number; To: number }): boolean {
    const from = behind(w.Row, w.From)
    if (from.length) return from.some(out)
    const to = before(w.Row, w.To)
    if (to.length) return to.some(into)
    return w.From === 0 || joined(w.From, w.Row)
  }
  const joined = (boundary: number, r: number) =>
    (g.Links ?? []).some((l) => l.Boundary === boundary && r >= l.FromRow && r <= l.ToRow && litLink(l))
  const litLink = (l: { Boundary: number; FromRow: number; ToRow: number }) =>
    items.some((i) => i.Row >= l.FromRow && i.Row <= l.ToRow && ((i.Column === l.Boundary && into(i)) || (i.Column + 1 === l.Boundary && out(i))))
  const alive = $derived(items.some((i) => flow(at(i))))
  const state = (i: Item) => (!alive ? '' : i.Kind === 'coil' ? (into(i) ? ', gets power' : ', gets no power') : out(i) ? ', passes power' : closed(i) ? ', closed, gets no power' : ', open')

  /** The frame of an item, or of a stretch of wire. */
  function frame(s: Spot) {
    const i = s.Item >= 0 ? items[s.Item] : undefined
    if (i?.Kind === 'box') return { x: x[s.From] + 3, y: y(s.Row) - 32, width: x[s.To] - x[s.From] - 6, height: boxHeight(i) + 22 }
    if (i) return { x: x[s.From] + 3, y: y(s.Row) - 28, width: x[s.To] - x[s.From] - 6, height: 44 }
    if (s.To > s.From) return { x: x[s.From] + 2, y: y(s.Row) - 18, width: x[s.To] - x[s.From] - 4, height: 36 }
    // Two series may end at one boundary: the outer one's end lies to the right.
    return { x: x[s.From] - 4 - 7 * Math.floor(s.Path.length / 2) + 5, y: y(s.Row) - 18, width: 9, height: 36 }
  }
  const pins = (i: Item) => Math.max(i.Inputs?.length ?? 0, i.Outputs?.length ?? 0)
  const boxHeight = (i: Item) => pins(i) * 22 + 8 + (face(i.Label, i.Type) ? 18 : 0)
  /** The middle of the wire at which the cursor would put something. */
  const middleOf = (f: { x: number; width: number }) => f.x + f.width / 2
</script>

<svg width={right + 14} {height} viewBox="0 0 {right + 14} {height}" class="rung block" class:editable role="img" aria-label="Rung {g.Title || 'at line ' + rung.line}">
  <path d="M14 2V{height - 2}M{right} 2V{height - 2}" class="rail" />
  <path d="M14 {y(0)}H{x[0]}" class="wire" class:lit={alive} />
  {#each g.Breaks ?? [] as b, n (n)}
    <path d="M{x[g.Columns]} {y(b.Row)}h6m-4 -4l4 4l-4 4" class="symbol" />
    <path d="M14 {y(b.NextRow)}H{x[0]}" class="wire" class:lit={behind(b.Row, g.Columns).some(out) || before(b.NextRow, 0).some(into)} />
    <path d="M17 {y(b.NextRow) - 4}l4 4l-4 4" class="symbol" />
  {/each}
  <path d="M{x[g.Columns]} {y((g.Breaks ?? []).at(-1)?.NextRow ?? 0)}H{right}" class="wire" class:lit={behind((g.Breaks ?? []).at(-1)?.NextRow ?? 0, g.Columns).some(out)} />
  {#each g.Wires ?? [] as w, n (n)}
    <path d="M{x[w.From]} {y(w.Row)}H{x[w.To]}" class="wire" class:lit={alive && lit(w)} />
  {/each}
  {#each g.Links ?? [] as l, n (n)}
    <path d="M{x[l.Boundary]} {y(l.FromRow)}V{y(l.ToRow)}" class="wire" class:lit={alive && litLink(l)} />
  {/each}
  {#each items as i, n (n)}
    {@const from = x[i.Column]}
    {@const to = x[i.Column + 1]}
    {@const line = y(i.Row)}
    {@const middle = (from + to) / 2}
    <g aria-label="{i.Kind} {i.Label || 'without a name'}{state(i)}">
      {#if i.Kind === 'box'}
        <path d="M{from} {line}H{from + 8}" class="wire" class:lit={into(i)} />
        <path d="M{to - 8} {line}H{to}" class="wire" class:lit={out(i)} />
        <rect x={from + 8} y={line - 15} width={to - from - 16} height={boxHeight(i)} class="body" class:passes={out(i)} class:decides={decides(at(i))} />
        <text x={middle} y={line - 19} class="name">{heading(i)}</text>
        {#each Array(pins(i)) as _, n (n)}
          <text x={from + 13} y={line + 4 + n * 22} class="pin">{i.Inputs?.[n] ?? ''}</text>
          <text x={to - 13} y={line + 4 + n * 22} class="pin end">{i.Outputs?.[n] ?? ''}</text>
        {/each}
        {#if face(i.Label, i.Type)}<text x={middle} y={line + 4 + pins(i) * 22} class="face">{face(i.Label, i.Type)}</text>{/if}
      {:else}
        {#if alive || decides(at(i))}
          <rect x={middle - 15} y={line - 12} width="30" height="24" rx="3" class="ground" class:passes={i.Kind === 'coil' ? into(i) : closed(i)} class:decides={decides(at(i))} />
        {/if}
        <path d="M{from} {line}H{middle - 8}" class="wire" class:lit={into(i)} />
        <path d="M{middle + 8} {line}H{to}" class="wire" class:lit={out(i)} />
        {#if i.Kind === 'coil'}
          <path d="M{middle - 6} {line - 10}q-7 10 0 20M{middle + 6} {line - 10}q7 10 0 20" class="symbol" />
        {:else}
          <path d="M{middle - 6} {line - 9}v18M{middle + 6} {line - 9}v18" class="symbol" />
        {/if}
        <text x={middle} y={line + 4} class="mark">{i.Mark}</text>
        <text x={middle} y={line - 16} class="name" class:unnamed={!i.Label}>{i.Label || (i.Mark === 'P' || i.Mark === 'N' ? '' : '?')}</text>
        {#if words(at(i))}<text x={middle} y={line + 22} class="words">{words(at(i))}</text>{/if}
      {/if}
    </g>
  {/each}
  {#if editable}
    {#each g.Spots as s, n (n)}
      {@const f = frame(s)}
      {@const bad = s.Item >= 0 ? wrong[s.Item] : undefined}
      {#if bad}
        <path d="M{f.x + 4} {f.y + f.height - 2}{'q4 -5 8 0q4 5 8 0'.repeat(Math.max(1, Math.floor((f.width - 8) / 16)))}" class="wavy" class:warning={bad.severity === 'warning'} />
      {/if}
      {#if s.Item >= 0 && chosen.includes(s.Item)}<rect {...f} rx="5" class="chosen" />{/if}
      {#if cursor === n}
        <rect {...f} rx="5" class="cursor" data-cursor />
        {#if s.Item < 0}<path d="M{middleOf(f)} {f.y + 4}v{f.height - 8}" class="caret" />{/if}
      {/if}
      <rect {...f} class="spot" data-spot={n} role="presentation">{#if bad}<title>{bad.words}</title>{/if}</rect>
    {/each}
  {/if}
</svg>

<style>
  .rung { font-family: var(--font-mono); font-size: 12.5px; fill: none; }
  .editable { cursor: pointer; }
  .rail { stroke: var(--color-base-content); stroke-width: 3; }
  .wire { stroke: color-mix(in oklab, var(--color-base-content) 55%, transparent); stroke-width: 1.5; }
  .lit { stroke: var(--color-primary); stroke-width: 4.5; }
  .symbol { stroke: var(--color-base-content); stroke-width: 2; }
  .body { stroke: var(--color-base-content); stroke-width: 1.5; fill: var(--color-base-100); }
  .ground { fill: var(--color-base-200); }
  .ground.passes, .body.passes { fill: color-mix(in oklab, var(--color-primary) 55%, var(--color-base-100)); }
  .decides { stroke: var(--color-error); stroke-width: 3; }
  .spot { fill: transparent; }
  .spot:hover { fill: color-mix(in oklab, var(--color-primary) 18%, transparent); }
  .cursor { stroke: var(--color-info); stroke-width: 2.5; fill: color-mix(in oklab, var(--color-info) 8%, transparent); }
  .caret { stroke: var(--color-info); stroke-width: 2.5; }
  .chosen { fill: color-mix(in oklab, var(--color-info) 22%, transparent); }
  .wavy { stroke: var(--color-error); stroke-width: 1.8; }
  .wavy.warning { stroke: var(--color-warning); }
  text { fill: var(--color-base-content); }
  .name, .mark, .face, .words { text-anchor: middle; }
  .unnamed { fill: var(--color-error); font-weight: 700; }
  .face { font-weight: 700; }
  .words { font-size: 11px; }
  .end { text-anchor: end; }
</style>
