<script lang="ts">
  // A timing diagram to be filled in: the script's inputs above, and beneath them a lane for each signal that is asked, drawn by mouse
  // or finger, or by keys at the cursor.
  import { scaleLinear } from 'd3-scale'
  import { untrack } from 'svelte'
  import type { Graded, Trace } from '../api'
  import { asTrace, changeAfter, moved, painted, valueOf, without, type Drawn, type Line } from '../drawn'
  import { line as path } from '../lane'
  import { ScanWindow } from '../state/window.svelte'
  import { bounds, clock, formatValue, valueAt } from '../trace'
  import ScanAxis from './ScanAxis.svelte'

  let {
    script,
    asked,
    drawn,
    change,
    row = 40,
  }: {
    script: Trace
    asked: Graded[]
    drawn: Drawn
    /** Takes a new line of a signal. */
    change: (signal: string, line: Line) => void
    /** How high a lane is. */
    row?: number
  } = $props()
  const scans = $derived(script.scans)
  const view = $derived(new ScanWindow(scans))
  const isBool = (g: Graded) => g.type === 'BOOL'
  const lineOf = (signal: string): Line => drawn.lines[signal] ?? [[0, 0]]

  let chosen = $state(0)
  const lane = $derived(asked[Math.min(chosen, asked.length - 1)])
  const cursor = $derived(view.cursor ?? 0)
  let number = $state(0)

  /** What is under the hand: a stretch that is being painted, or a change on its way. */
  let hand = $state<{ signal: string; from: number; to: number; value: number } | null>(null)
  let dragged = $state<{ signal: string; n: number; to: number } | null>(null)
  const shown = (signal: string): Line => {
    const line = lineOf(signal)
    if (hand?.signal === signal && hand.to !== hand.from)
      return painted(line, Math.min(hand.from, hand.to), Math.max(hand.from, hand.to), hand.value, scans)
    if (dragged?.signal === signal) return moved(line, dragged.n, dragged.to, scans)
    return line
  }
  const trace = $derived(
    asTrace(
      script,
      asked.map((g) => ({ signal: g.signal, type: g.type ?? 'BOOL' })),
      { lines: Object.fromEntries(asked.map((g) => [g.signal, shown(g.signal)])) },
    ),
  )

  let width = $state(800)
  let svg = $state<SVGSVGElement>()
  const left = 150
  const tall = $derived(row - 18)
  const top = 26
  const lanes = $derived([
    ...script.signals.map((column) => ({ column, asked: -1 })),
    ...trace.signals.map((column, n) => ({ column, asked: n })),
  ])
  const height = $derived(top + lanes.length * row + 8)
  const x = $derived(scaleLinear([view.from, view.to], [left, Math.max(width - 12, left + 100)]))
  const perScan = $derived(x(view.from + 1) - x(view.from))
  const laneTop = (i: number) => top + i * row + 9
  const frame = (i: number) => ({ from: view.from, to: view.to, x, top: laneTop(i), tall })

  /** The scans at which an input changes: a hand that is near one means it. */
  const edges = $derived([...new Set(script.signals.flatMap((c) => bounds(c, 0, scans)))])
  function scanAt(event: PointerEvent, last = scans): number {
    const at = event.clientX - svg!.getBoundingClientRect().left
    const near = edges.find((e) => Math.abs(x(e) - at) < (perScan < 8 ? 6 : 0))
    return Math.min(Math.max(near ?? (perScan < 8 ? Math.round : Math.floor)(x.invert(at)), 0), last)
  }
  function askedAt(event: PointerEvent): number {
    return Math.floor((event.clientY - svg!.getBoundingClientRect().top - top) / row) - script.signals.length
  }

  function begin(event: PointerEvent) {
    if (event.button) return
    const n = askedAt(event)
    const scan = scanAt(event, scans - 1)
    view.cursor = scan
    if (n < 0 || n >= asked.length) return
    chosen = n
    const { signal } = asked[n]
    if (!isBool(asked[n])) return
    svg!.setPointerCapture(event.pointerId)
    hand = { signal, from: scan, to: scan, value: 1 - valueOf(lineOf(signal), scan) }
  }
  function go(event: PointerEvent) {
    if (!hand) return
    const to = scanAt(event)
    // The scan under the hand is painted, too.
    hand.to = perScan >= 8 && to >= hand.from ? Math.min(to + 1, scans) : to
    if (perScan >= 8 && to === hand.from) hand.to = hand.from
    view.cursor = Math.min(to, scans - 1)
  }
  function end() {
    const h = hand
    hand = null
    if (!h) return
    if (h.to === h.from) return flip(h.signal, h.from)
    change(h.signal, painted(lineOf(h.signal), Math.min(h.from, h.to), Math.max(h.from, h.to), h.value, scans))
  }
  function take(event: PointerEvent, signal: string, n: number) {
    event.stopPropagation()
    ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
    dragged = { signal, n, to: lineOf(signal)[n][0] }
  }
  function drop() {
    const d = dragged
    dragged = null
    if (d && d.to !== lineOf(d.signal)[d.n][0]) change(d.signal, moved(lineOf(d.signal), d.n, d.to, scans))
  }

  /** The other value from a scan on, up to the next change. */
  function flip(signal: string, scan: number) {
    const line = lineOf(signal)
    change(signal, painted(line, scan, changeAfter(line, scan, scans), 1 - valueOf(line, scan), scans))
  }
  function pulse() {
    const line = lineOf(lane.signal)
    change(lane.signal, painted(line, cursor, cursor + 1, 1 - valueOf(line, cursor), scans))
    view.step(1)
  }
  function put() {
    const line = lineOf(lane.signal)
    change(lane.signal, painted(line, cursor, changeAfter(line, cursor, scans), Math.round(number), scans))
  }
  /** Takes out the change at the cursor, or the last one before it. */
  function takeOut() {
    const line = lineOf(lane.signal)
    const n = line.findLastIndex(([at]) => at <= cursor)
    if (n > 0) change(lane.signal, without(line, n))
    else if (valueOf(line, 0)) change(lane.signal, painted(line, 0, changeAfter(line, 0, scans), 0, scans))
  }
  /** To the next change of anything, or the one before. */
  function jump(by: 1 | -1) {
    const all = [...edges, ...asked.flatMap((g) => lineOf(g.signal).map(([at]) => at)), 0, scans - 1]
    const there = all.filter((at) => (by > 0 ? at > cursor : at < cursor)).sort((a, b) => (a - b) * by)[0]
    if (there !== undefined) view.step(there - cursor)
  }
  const enter = () => (isBool(lane) ? flip(lane.signal, cursor) : put())

  function key(event: KeyboardEvent) {
    if (event.target !== event.currentTarget || event.ctrlKey || event.metaKey || event.altKey) return
    const act: Record<string, () => void> = {
      ArrowLeft: () => view.step(event.shiftKey ? -10 : -1),
      ArrowRight: () => view.step(event.shiftKey ? 10 : 1),
      ArrowUp: () => (chosen = Math.max(chosen - 1, 0)),
      ArrowDown: () => (chosen = Math.min(chosen + 1, asked.length - 1)),
      PageUp: () => jump(-1),
      PageDown: () => jump(1),
      Home: () => view.step(-scans),
      End: () => view.step(scans),
      ' ': enter,
      Enter: enter,
      p: () => isBool(lane) && pulse(),
      Delete: takeOut,
      Backspace: takeOut,
      '+': () => view.zoom(0.5),
      '=': () => view.zoom(0.5),
      '-': () => view.zoom(2),
      '0': () => view.whole(),
    }
    if (!act[event.key]) return
    event.preventDefault()
    act[event.key]()
  }
  const reading = $derived(
    [...script.signals, ...trace.signals].map((c) => `${c.name} ${formatValue(c, valueAt(c, cursor))}`).join(', '),
  )
  // Short scripts are seen scan by scan, long ones as a whole.
  $effect(() => {
    if (untrack(() => view.cursor) === null) view.cursor = 0
  })
</script>

<div class="flex flex-col gap-2">
  <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
  <div
    class="overflow-hidden rounded-box border border-base-300 bg-base-100"
    bind:clientWidth={width}
    role="application"
    aria-label={'Draw what happens. Arrow keys move the cursor and choose the signal, Space changes it from there on, ' +
      'p draws one scan, Delete takes a change out, plus and minus zoom.'}
    tabindex="0"
    onkeydown={key}
  >
    <svg
      bind:this={svg}
      {width}
      {height}
      class="block touch-pan-y select-none"
      onpointerdown={begin}
      onpointermove={go}
      onpointerup={end}
      onpointercancel={() => (hand = null)}
      role="presentation"
    >
      <ScanAxis trace={script} {x} {width} {top} bottom={height - 4} apart={110} />
      {#if perScan > 6}
        {#each { length: view.length } as _, n (n)}
          <line x1={x(view.from + n)} x2={x(view.from + n)} y1={top} y2={height - 6} class="scan-line" />
        {/each}
      {/if}
      {#each lanes as l, i (i)}
        {#if l.asked === 0}<line x1="6" x2={width - 6} y1={laneTop(i) - 9} y2={laneTop(i) - 9} class="rule" />{/if}
        {#if l.asked >= 0}
          <rect
            x={left}
            width={Math.max(width - 12 - left, 100)}
            y={laneTop(i) - 7}
            height={row - 4}
            class="field"
            data-field={asked[l.asked].signal}
            class:chosen={l.asked === chosen}
          />
        {/if}
        <text x="10" y={laneTop(i) + tall - 6} class="name" class:asked={l.asked >= 0}>{l.column.name}</text>
        {#if l.column.type === 'BOOL'}
          <path d={path(l.column, scans, frame(i), true)} class="on" class:output={l.asked >= 0} />
        {/if}
        <path
          d={path(l.column, scans, frame(i), false)}
          class="line"
          data-lane="{l.column.name} {l.asked < 0 ? 'input' : 'drawn'}"
        />
        {#if l.column.type !== 'BOOL'}
          {#each l.column.segments.filter(([at]) => Number(at) >= view.from && Number(at) < view.to) as [at, v] (at)}
            <text x={x(Number(at)) + 4} y={laneTop(i) + tall - 6} class="value">{v}</text>
          {/each}
        {/if}
      {/each}
      {#each asked as g, n (g.signal)}
        {@const i = script.signals.length + n}
        {#each lineOf(g.signal) as [at], k (k)}
          {#if k > 0 && at >= view.from && at < view.to}
            {@const to = dragged?.signal === g.signal && dragged.n === k ? dragged.to : at}
            <rect
              x={x(to) - 6}
              y={laneTop(i) - 5}
              width="12"
              height={tall + 10}
              class="grip"
              data-change="{g.signal} {at}"
              role="presentation"
              onpointerdown={(event) => take(event, g.signal, k)}
              onpointermove={(event) => dragged && (dragged.to = scanAt(event, scans - 1))}
              onpointerup={drop}
              onpointercancel={() => (dragged = null)}
            />
          {/if}
        {/each}
      {/each}
      {#if cursor >= view.from && cursor < view.to}
        <rect x={x(cursor)} width={Math.max(perScan, 1.5)} y={top} height={height - top - 6} class="cursor" />
      {/if}
    </svg>
  </div>
  <div class="flex flex-wrap items-center gap-1.5" role="group" aria-label="At the cursor">
    {#if asked.length > 1}
      <select class="select w-auto select-xs font-mono" aria-label="Signal" bind:value={chosen}>
        {#each asked as g, n (g.signal)}<option value={n}>{g.signal}</option>{/each}
      </select>
    {/if}
    <span class="join">
      <button class="btn join-item btn-xs" aria-label="One scan back" onclick={() => view.step(-1)}>‹</button>
      <button class="btn join-item btn-xs" aria-label="One scan on" onclick={() => view.step(1)}>›</button>
    </span>
    {#if isBool(lane)}
      <button class="btn btn-xs" onclick={enter}
        >{valueOf(lineOf(lane.signal), cursor) ? 'FALSE' : 'TRUE'} from here</button
      >
      <button class="btn btn-xs" onclick={pulse}>Just this scan</button>
    {:else}
      <input type="number" class="input input-xs w-20" aria-label="Value" bind:value={number} />
      <button class="btn btn-xs" onclick={put}>From here</button>
    {/if}
    <button class="btn btn-xs" onclick={takeOut}>Take the change out</button>
    <span class="join ml-auto">
      <button class="btn join-item btn-xs" disabled={view.length <= 8} onclick={() => view.zoom(0.5)}>Closer</button>
      <button class="btn join-item btn-xs" disabled={view.length === scans} onclick={() => view.zoom(2)}>Wider</button>
      <button class="btn join-item btn-xs" disabled={view.length === scans} onclick={() => view.whole()}>Whole</button>
    </span>
  </div>
  <p class="text-xs tabular-nums" role="status" data-testid="reading">
    scan {cursor} ({clock(script, cursor)}): {reading}
  </p>
</div>

<style>
  text {
    font-size: 12px;
    fill: var(--color-base-content);
  }
  .name {
    font-family: var(--font-mono);
  }
  .asked {
    font-weight: 700;
  }
  .value {
    font-family: var(--font-mono);
    font-size: 11px;
  }
  .rule {
    stroke: var(--color-base-content);
    stroke-opacity: 0.35;
  }
  .scan-line {
    stroke: var(--color-base-300);
    stroke-opacity: 0.6;
  }
  .field {
    fill: var(--color-base-200);
    cursor: crosshair;
  }
  .field.chosen {
    stroke: var(--color-info);
    stroke-dasharray: 3 3;
  }
  .on {
    fill: var(--color-primary);
    fill-opacity: 0.4;
    pointer-events: none;
  }
  .on.output {
    fill-opacity: 0.8;
  }
  .line {
    fill: none;
    stroke: var(--color-base-content);
    stroke-width: 2;
    pointer-events: none;
  }
  .grip {
    fill: transparent;
    cursor: ew-resize;
  }
  .cursor {
    fill: var(--color-info);
    fill-opacity: 0.35;
    pointer-events: none;
  }
</style>
