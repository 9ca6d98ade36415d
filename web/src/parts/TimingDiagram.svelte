<script lang="ts">
  // A timing diagram: inputs above, then each graded signal as expected and as
  // it was, on one axis with the scan grid.
  import ZoomIn from '@lucide/svelte/icons/zoom-in'
  import ZoomOut from '@lucide/svelte/icons/zoom-out'
  import Maximize2 from '@lucide/svelte/icons/maximize-2'
  import { scaleLinear } from 'd3-scale'
  import type { Column, Evidence, ScenarioMark } from '../api'
  import { line } from '../lane'
  import ScanAxis from './ScanAxis.svelte'
  import { ScanWindow } from '../state/window.svelte'
  import { bounds, clock, columnNamed, differences, formatValue, valueAt, wordFor } from '../trace'

  let {
    evidence,
    mark,
    slips = [],
    predicted = false,
  }: {
    evidence: Evidence
    mark: ScenarioMark
    /** Where several programs first differ: each is a count on its signal's lane, or above all lanes where it has none. */
    slips?: { signal: string; scan: number; count: number }[]
    /** What was expected is what happens, and what there was is what somebody drew of it. */
    predicted?: boolean
  } = $props()

  type Lane = {
    label: string
    kind: 'input' | 'expected' | 'actual'
    column: Column
    scans: number
    last: boolean
    difference?: number
  }

  const words = $derived(
    predicted ? { expected: 'happens', actual: 'drawn' } : { expected: 'expected', actual: 'actual' },
  )
  /** Of a signal's two lanes the one that is dashed: what should be, or what was only thought. */
  const dashed = $derived(predicted ? 'actual' : 'expected')

  const view = $derived(new ScanWindow(evidence.inputs.scans))
  const first = $derived(
    mark.signals
      .map((s) => s.difference?.scan)
      .filter((s) => s !== undefined)
      .sort((a, b) => a - b)[0],
  )

  const lanes = $derived.by(() => {
    const list: Lane[] = evidence.inputs.signals.map((column) => ({
      label: column.name,
      kind: 'input',
      column,
      scans: evidence.inputs.scans,
      last: true,
    }))
    for (const expected of evidence.expected.signals) {
      const actual = columnNamed(evidence.actual, expected.name)
      const difference = mark.signals.find((s) => s.signal.toLowerCase() === expected.name.toLowerCase())?.difference
        ?.scan
      list.push({
        label: expected.name,
        kind: 'expected',
        column: expected,
        scans: evidence.expected.scans,
        last: !actual,
        difference,
      })
      if (actual)
        list.push({
          label: expected.name,
          kind: 'actual',
          column: actual,
          scans: evidence.actual.scans,
          last: true,
          difference,
        })
    }
    return list
  })

  let width = $state(900)
  const left = 190
  const right = 14
  const row = 34
  const tall = 18
  const top = 34
  const height = $derived(top + lanes.length * row + 10)
  const x = $derived(scaleLinear([view.from, view.to], [left, Math.max(width - right, left + 100)]))
  const perScan = $derived(x(view.from + 1) - x(view.from))

  const laneTop = (i: number) => top + i * row + 8

  const frame = (i: number) => ({ from: view.from, to: view.to, x, top: laneTop(i), tall })

  /** Values written into a lane that is not on/off, where there is room. */
  function labels(lane: Lane): { x: number; text: string }[] {
    if (lane.column.type === 'BOOL') return []
    const end = Math.min(view.to, lane.scans)
    const edges = [view.from, ...bounds(lane.column, view.from, end), end]
    return edges.slice(0, -1).flatMap((from, n) => {
      const text = formatValue(lane.column, valueAt(lane.column, from))
      const flat = valueAt(lane.column, edges[n + 1] - 1) === valueAt(lane.column, from)
      return flat && x(edges[n + 1]) - x(from) > text.length * 7 + 8 ? [{ x: x(from) + 4, text }] : []
    })
  }

  /** The counts to draw: those that would cover each other are one. */
  const spots = $derived.by(() => {
    const list: { x: number; y: number; count: number; scans: number[] }[] = []
    const inside = slips.filter((s) => s.scan >= view.from && s.scan < view.to).sort((a, b) => a.scan - b.scan)
    for (const s of inside) {
      const lane = lanes.findIndex((l) => l.kind === 'expected' && l.label.toLowerCase() === s.signal.toLowerCase())
      const y = lane < 0 ? top - 10 : laneTop(lane) + tall / 2
      const near = list.find((one) => one.y === y && x(s.scan) - one.x < 22)
      if (!near) list.push({ x: x(s.scan), y, count: s.count, scans: [s.scan] })
      else {
        near.count += s.count
        near.scans.push(s.scan)
      }
    }
    return list
  })

  function differing(lane: Lane): [number, number][] {
    const expected = columnNamed(evidence.expected, lane.column.name)
    if (lane.kind !== 'actual' || lane.difference === undefined || !expected) return []
    return differences(expected, lane.column, lane.scans)
      .filter(([from, to]) => to > view.from && from < view.to)
      .map(([from, to]) => [Math.max(from, view.from), Math.min(to, view.to)])
  }

  function scanAt(event: PointerEvent | WheelEvent): number {
    const box = (event.currentTarget as Element).getBoundingClientRect()
    return Math.floor(x.invert(event.clientX - box.left))
  }

  function point(event: PointerEvent) {
    const scan = scanAt(event)
    if (scan >= view.from && scan < view.to) view.cursor = scan
  }

  function wheel(event: WheelEvent) {
    if (!event.ctrlKey && Math.abs(event.deltaX) > Math.abs(event.deltaY)) {
      event.preventDefault()
      view.pan(Math.sign(event.deltaX) * Math.max(1, Math.round(view.length / 20)))
    } else if (event.ctrlKey || event.shiftKey) {
      event.preventDefault()
      view.zoom(event.deltaY > 0 ? 1.25 : 0.8, scanAt(event))
    }
  }

  function key(event: KeyboardEvent) {
    const act: Record<string, () => void> = {
      ArrowLeft: () => view.step(event.shiftKey ? -10 : -1),
      ArrowRight: () => view.step(event.shiftKey ? 10 : 1),
      '+': () => view.zoom(0.5),
      '=': () => view.zoom(0.5),
      '-': () => view.zoom(2),
      '0': () => view.whole(),
      Home: () => view.step(-view.scans),
      End: () => view.step(view.scans),
    }
    if (!act[event.key]) return
    event.preventDefault()
    act[event.key]()
  }

  /** Shows a scan from close by, with the cursor on it. */
  export function go(scan: number) {
    view.closeTo(scan)
  }

  const reading = (lane: Lane, scan: number) =>
    scan < lane.scans ? formatValue(lane.column, valueAt(lane.column, scan)) : '–'
</script>

<div class="flex flex-col gap-2">
  <div class="flex flex-wrap items-center gap-2 text-sm">
    <button class="btn btn-sm" onclick={() => view.zoom(0.5)} disabled={view.length <= 8}
      ><ZoomIn size={16} /> Closer</button
    >
    <button class="btn btn-sm" onclick={() => view.zoom(2)} disabled={view.length === view.scans}
      ><ZoomOut size={16} /> Wider</button
    >
    <button class="btn btn-sm" onclick={() => view.whole()} disabled={view.length === view.scans}
      ><Maximize2 size={16} /> Whole</button
    >
    {#if first !== undefined}
      <button class="btn btn-sm btn-primary" onclick={() => view.closeTo(first)}>First difference</button>
    {/if}
    <p class="ml-auto tabular-nums print:hidden" role="status" data-testid="cursor">
      {#if view.cursor !== null}
        scan {view.cursor} ({clock(evidence.inputs, view.cursor)})
      {:else}
        point at the diagram to read values
      {/if}
    </p>
  </div>
  <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
  <div
    class="overflow-hidden rounded-box border border-base-300 bg-base-100"
    bind:clientWidth={width}
    role="application"
    aria-label="Timing diagram. Arrow keys move the cursor, plus and minus zoom, 0 shows all."
    tabindex="0"
    onkeydown={key}
  >
    <svg
      {width}
      {height}
      class="block touch-pan-y select-none"
      onpointermove={point}
      onpointerdown={point}
      onwheel={wheel}
      role="presentation"
    >
      <g class="axis">
        <ScanAxis trace={evidence.inputs} {x} {width} {top} bottom={height - 6} />
        {#if perScan > 6}
          {#each { length: view.length } as _, n (n)}
            <line x1={x(view.from + n)} x2={x(view.from + n)} y1={top} y2={height - 6} class="scan-line" />
          {/each}
        {/if}
      </g>
      {#each lanes as lane, i (i)}
        {#if lane.kind === 'expected'}
          <line x1="8" x2={width - 8} y1={laneTop(i) - 7} y2={laneTop(i) - 7} class="grid-line" />
        {/if}
        {#each differing(lane) as [from, to] (from)}
          <rect
            x={x(from)}
            width={Math.max(x(to) - x(from), 2)}
            y={laneTop(i - 1) - 3}
            height={row + tall + 6}
            class="difference"
          />
        {/each}
      {/each}
      {#each lanes as lane, i (i)}
        <text x="12" y={laneTop(i) + tall - 3} class="name">{lane.label}</text>
        <text x={left - 8} y={laneTop(i) + tall - 3} class="kind" text-anchor="end"
          >{lane.kind === 'input' ? '' : words[lane.kind]}</text
        >
        {#if lane.column.type === 'BOOL' && lane.kind !== dashed}
          <path d={line(lane.column, lane.scans, frame(i), true)} class="on" />
        {/if}
        <path
          d={line(lane.column, lane.scans, frame(i), false)}
          class="line"
          class:dashed={lane.kind === dashed}
          data-lane="{lane.label} {lane.kind}"
        />
        {#each labels(lane) as l (l.x)}
          <text x={l.x} y={laneTop(i) + tall - 5} class="value">{l.text}</text>
        {/each}
        {#if lane.scans < view.to}
          <text x={x(Math.max(lane.scans, view.from)) + 6} y={laneTop(i) + tall - 3} class="kind"
            >{mark.fault ? 'stopped here' : 'kept up to here'}</text
          >
        {/if}
      {/each}
      {#if first !== undefined && first >= view.from && first < view.to}
        <path d="M{x(first)} {top - 2}l-6 -8h12z" class="flag" />
        <line x1={x(first)} x2={x(first)} y1={top - 2} y2={height - 6} class="flag-line" />
      {/if}
      {#each spots as s (s.x + ' ' + s.y)}
        <g class="spot" role="img" aria-label="{s.count} first differ at scan {s.scans.join(', ')}">
          <circle cx={s.x} cy={s.y} r="10" />
          <text x={s.x} y={s.y + 4} text-anchor="middle">{s.count}</text>
        </g>
      {/each}
      {#if view.cursor !== null && view.cursor >= view.from && view.cursor < view.to}
        <line
          x1={x(view.cursor) + Math.min(perScan / 2, 6)}
          x2={x(view.cursor) + Math.min(perScan / 2, 6)}
          y1={top}
          y2={height - 6}
          class="cursor"
        />
      {/if}
    </svg>
  </div>
  {#if view.cursor !== null}
    <dl class="flex flex-wrap gap-x-5 gap-y-1 text-sm" data-testid="values">
      {#each lanes as lane, i (i)}
        <div class="flex gap-1.5">
          <dt class="opacity-80">{lane.label}{lane.kind === 'input' ? '' : ' ' + words[lane.kind]}</dt>
          <dd class="font-mono font-medium">{wordFor(reading(lane, view.cursor))}</dd>
        </div>
      {/each}
    </dl>
  {/if}
</div>

<style>
  text {
    font-size: 12px;
    fill: var(--color-base-content);
  }
  .name {
    font-family: var(--font-mono);
    font-size: 13px;
  }
  .kind {
    fill-opacity: 0.8;
  }
  .value {
    font-family: var(--font-mono);
    font-size: 11px;
    paint-order: stroke;
    stroke: var(--color-base-100);
    stroke-width: 3px;
  }
  .grid-line {
    stroke: var(--color-base-300);
  }
  .scan-line {
    stroke: var(--color-base-300);
    stroke-opacity: 0.6;
  }
  .on {
    fill: var(--color-primary);
    fill-opacity: 0.75;
  }
  .line {
    fill: none;
    stroke: var(--color-base-content);
    stroke-width: 2;
  }
  .line.dashed {
    stroke-dasharray: 5 3;
  }
  .difference {
    fill: var(--color-error);
    fill-opacity: 0.14;
    stroke: var(--color-error);
    stroke-opacity: 0.5;
    stroke-dasharray: 2 2;
  }
  .flag {
    fill: var(--color-error);
  }
  .flag-line {
    stroke: var(--color-error);
    stroke-width: 1.5;
  }
  .spot circle {
    fill: var(--color-warning);
    stroke: var(--color-base-100);
    stroke-width: 1.5;
  }
  .spot text {
    fill: var(--color-warning-content);
    font-weight: 600;
  }
  .cursor {
    stroke: var(--color-info);
    stroke-width: 1.5;
  }
</style>
