<script lang="ts">
  // One rung, with the power in it: wires that carry power are yellow and thick, contacts that pass it are filled. While it is
  // drawn on, the place of the cursor, what is chosen and what is wrong are shown as well.
  import type { Item, Link, Rung, Wire } from '../core/core'
  import { bodyAbove, bodyHeight, frame, instanceOf, joints, kindOf, layout, pinBelow, pins } from '../state/layout'

  type Flow = { in: boolean; out: boolean; closed: boolean }
  let {
    rung,
    flow,
    face = () => '',
    words = () => '',
    decides = () => false,
    width: room = 0,
    cursor = null,
    chosen = [],
    wrong = {},
    editable = false,
  }: {
    rung: Rung
    /** The power at an element, by where its text begins; undefined while nothing runs. */
    flow: (start: number) => Flow | undefined
    /** What a timer or counter shows. */
    face?: (item: Item) => string
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

  const g = $derived(rung.geometry)
  const items = $derived(g.items)
  const at = (i: Item) => rung.start + i.start
  const l = $derived(layout(rung, room, { face, words }))
  const x = $derived(l.x)
  const right = $derived(l.right)
  const height = $derived(l.height)
  const y = (r: number) => l.y[r]

  const behind = (r: number, boundary: number) => items.filter((i) => i.row === r && i.column + 1 === boundary)
  const before = (r: number, boundary: number) => items.filter((i) => i.row === r && i.column === boundary)
  const out = (i: Item) => flow(at(i))?.out ?? false
  const closed = (i: Item) => flow(at(i))?.closed ?? false
  const into = (i: Item) => flow(at(i))?.in ?? false

  /** A wire carries what the element before it passes, or what the one behind it gets. */
  function lit(w: Wire): boolean {
    const from = behind(w.row, w.from)
    if (from.length) return from.some(out)
    const to = before(w.row, w.to)
    if (to.length) return to.some(into)
    return w.from === 0 || joined(w.from, w.row)
  }
  const joined = (boundary: number, r: number) =>
    g.links.some((l) => l.boundary === boundary && r >= l.fromRow && r <= l.toRow && litLink(l))
  const litLink = (l: Link) =>
    items.some(
      (i) =>
        i.row >= l.fromRow &&
        i.row <= l.toRow &&
        ((i.column === l.boundary && into(i)) || (i.column + 1 === l.boundary && out(i))),
    )
  const alive = $derived(items.some((i) => flow(at(i))))
  const state = (i: Item) =>
    !alive
      ? ''
      : i.kind === 'coil'
        ? into(i)
          ? ', gets power'
          : ', gets no power'
        : out(i)
          ? ', passes power'
          : closed(i)
            ? ', closed, gets no power'
            : ', open'

  /** The middle of the wire at which the cursor would put something. */
  const middleOf = (f: { x: number; width: number }) => f.x + f.width / 2
</script>

<svg
  width={right + 14}
  {height}
  viewBox="0 0 {right + 14} {height}"
  class="rung block"
  class:editable
  role="img"
  aria-label="Rung {g.title || 'at line ' + rung.line}"
>
  <path d="M14 2V{height - 2}M{right} 2V{height - 2}" class="rail" />
  <path d="M14 {y(0)}H{x[0]}" class="wire" class:lit={alive} />
  {#each g.breaks ?? [] as b, n (n)}
    <path d="M{x[g.columns]} {y(b.row)}h6m-4 -4l4 4l-4 4" class="symbol" />
    <path
      d="M14 {y(b.nextRow)}H{x[0]}"
      class="wire"
      class:lit={behind(b.row, g.columns).some(out) || before(b.nextRow, 0).some(into)}
    />
    <path d="M17 {y(b.nextRow) - 4}l4 4l-4 4" class="symbol" />
  {/each}
  <path
    d="M{x[g.columns]} {y(g.breaks.at(-1)?.nextRow ?? 0)}H{right}"
    class="wire"
    class:lit={behind(g.breaks.at(-1)?.nextRow ?? 0, g.columns).some(out)}
  />
  {#each g.wires as w, n (n)}
    <path d="M{x[w.from]} {y(w.row)}H{x[w.to]}" class="wire" class:lit={alive && lit(w)} />
  {/each}
  {#each g.links as l, n (n)}
    <path d="M{x[l.boundary]} {y(l.fromRow)}V{y(l.toRow)}" class="wire" class:lit={alive && litLink(l)} />
  {/each}
  {#each items as i, n (n)}
    {@const from = x[i.column]}
    {@const to = x[i.column + 1]}
    {@const line = y(i.row)}
    {@const middle = (from + to) / 2}
    <g aria-label="{i.kind} {i.label || 'without a name'}{state(i)}">
      {#if i.kind === 'box'}
        <path d="M{from} {line}H{from + 8}" class="wire" class:lit={into(i)} />
        <path d="M{to - 8} {line}H{to}" class="wire" class:lit={out(i)} />
        <rect
          x={from + 8}
          y={line - bodyAbove}
          width={to - from - 16}
          height={bodyHeight(i, face(i))}
          class="body"
          class:passes={out(i)}
          class:decides={decides(at(i))}
        />
        {#if instanceOf(i)}<text x={middle} y={line - bodyAbove - 5} class="name">{instanceOf(i)}</text>{/if}
        <text x={middle} y={line - 16} class="kind">{kindOf(i)}</text>
        {#each Array(pins(i)) as _, n (n)}
          <text x={from + 13} y={line + 4 + pinBelow(n)} class="pin">{i.inputs[n] ?? ''}</text>
          <text x={to - 13} y={line + 4 + pinBelow(n)} class="pin end">{i.outputs[n] ?? ''}</text>
        {/each}
        {#if face(i)}<text x={middle} y={line + 2 + pinBelow(pins(i))} class="face">{face(i)}</text>{/if}
      {:else}
        {#if alive || decides(at(i))}
          <rect
            x={middle - 15}
            y={line - 12}
            width="30"
            height="24"
            rx="3"
            class="ground"
            class:passes={i.kind === 'coil' ? into(i) : closed(i)}
            class:decides={decides(at(i))}
          />
        {/if}
        <path d="M{from} {line}H{middle - 8}" class="wire" class:lit={into(i)} />
        <path d="M{middle + 8} {line}H{to}" class="wire" class:lit={out(i)} />
        {#if i.kind === 'coil'}
          <path d="M{middle - 6} {line - 10}q-7 10 0 20M{middle + 6} {line - 10}q7 10 0 20" class="symbol" />
        {:else}
          <path d="M{middle - 6} {line - 9}v18M{middle + 6} {line - 9}v18" class="symbol" />
        {/if}
        <text x={middle} y={line + 4} class="mark">{i.mark}</text>
        <text x={middle} y={line - 16} class="name" class:unnamed={!i.label}
          >{i.label || (i.mark === 'P' || i.mark === 'N' ? '' : '?')}</text
        >
        {#if words(at(i))}<text x={middle} y={line + 22} class="words">{words(at(i))}</text>{/if}
      {/if}
    </g>
  {/each}
  {#if editable}
    {#each g.spots as s, n (n)}
      {@const f = frame(l, g, s, face)}
      {@const bad = s.item >= 0 ? wrong[s.item] : undefined}
      {#if bad}
        <path
          d="M{f.x + 4} {f.y + f.height - 2}{'q4 -5 8 0q4 5 8 0'.repeat(Math.max(1, Math.floor((f.width - 8) / 16)))}"
          class="wavy"
          class:warning={bad.severity === 'warning'}
        />
      {/if}
      {#if s.item >= 0 && chosen.includes(s.item)}<rect {...f} rx="5" class="chosen" />{/if}
      {#if cursor === n}
        <rect {...f} rx="5" class="cursor" data-cursor />
        {#if s.item < 0}<path d="M{middleOf(f)} {f.y + 4}v{f.height - 8}" class="caret" />{/if}
      {/if}
      <rect {...f} class="spot" data-spot={n} role="presentation"
        >{#if bad}<title>{bad.words}</title>{/if}</rect
      >
    {/each}
    {#each joints(l, g) as j (j.series.join() + '|' + j.index)}
      <circle cx={j.x} cy={j.y} r="6" class="joint" data-joint="{j.series.join()}|{j.index}" role="presentation"
        ><title>Draw a wire from here to another point: a branch</title></circle
      >
    {/each}
  {/if}
</svg>

<style>
  .rung {
    font-family: var(--font-mono);
    font-size: 12.5px;
    fill: none;
  }
  .editable {
    cursor: pointer;
  }
  .rail {
    stroke: var(--color-base-content);
    stroke-width: 3;
  }
  .wire {
    stroke: color-mix(in oklab, var(--color-base-content) 55%, transparent);
    stroke-width: 1.5;
  }
  .lit {
    stroke: var(--color-primary);
    stroke-width: 4.5;
  }
  .symbol {
    stroke: var(--color-base-content);
    stroke-width: 2;
  }
  .body {
    stroke: var(--color-base-content);
    stroke-width: 1.5;
    fill: var(--color-base-100);
  }
  .ground {
    fill: var(--color-base-200);
  }
  .ground.passes,
  .body.passes {
    fill: color-mix(in oklab, var(--color-primary) 55%, var(--color-base-100));
  }
  .decides {
    stroke: var(--color-error);
    stroke-width: 3;
  }
  .spot {
    fill: transparent;
  }
  .spot:hover {
    fill: color-mix(in oklab, var(--color-primary) 18%, transparent);
  }
  .joint {
    fill: transparent;
    cursor: crosshair;
  }
  .joint:hover {
    fill: var(--color-info);
  }
  .cursor {
    stroke: var(--color-info);
    stroke-width: 2.5;
    fill: color-mix(in oklab, var(--color-info) 8%, transparent);
  }
  .caret {
    stroke: var(--color-info);
    stroke-width: 2.5;
  }
  .chosen {
    fill: color-mix(in oklab, var(--color-info) 22%, transparent);
  }
  .wavy {
    stroke: var(--color-error);
    stroke-width: 1.8;
  }
  .wavy.warning {
    stroke: var(--color-warning);
  }
  text {
    fill: var(--color-base-content);
  }
  .name,
  .kind,
  .mark,
  .face,
  .words {
    text-anchor: middle;
  }
  .kind {
    font-weight: 700;
    font-size: 11.5px;
  }
  .unnamed {
    fill: var(--color-error);
    font-weight: 700;
  }
  .face {
    font-weight: 700;
  }
  .words {
    font-size: 11px;
  }
  .end {
    text-anchor: end;
  }
</style>
