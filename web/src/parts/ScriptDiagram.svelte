<script lang="ts">
  // A scenario as a timing diagram that can be changed: edges of inputs are dragged or moved by keys, a stretch is chosen by dragging
  // over a lane, or over the axis for all of them.
  import { scaleLinear } from 'd3-scale'
  import type { Edge } from '../core/calls'
  import { line } from '../lane'
  import type { Lane, Script } from '../state/script.svelte'
  import { clock } from '../trace'
  import ScanAxis from './ScanAxis.svelte'

  let { script }: { script: Script } = $props()
  const view = $derived(script.view)
  const scans = $derived(script.scans)
  const lanes = $derived(script.lanes)
  let width = $state(800)
  const left = 150
  const row = 30
  const tall = 16
  const top = 26
  const height = $derived(top + lanes.length * row + 8)
  const x = $derived(scaleLinear([view.from, view.to], [left, Math.max(width - 12, left + 100)]))
  const laneTop = (i: number) => top + i * row + 7
  const frame = (i: number) => ({ from: view.from, to: view.to, x, top: laneTop(i), tall })
  const words: Record<Lane['kind'], string> = { input: '', does: '', expected: 'expected', was: 'before' }

  /** An edge on its way, or a stretch being drawn. */
  let dragged = $state<{ edge: Edge; to: number } | null>(null)
  let drawn: { lane: number; from: number } | null = null
  let svg = $state<SVGSVGElement>()

  function scanAt(event: PointerEvent) {
    const box = svg!.getBoundingClientRect()
    return Math.min(Math.max(Math.round(x.invert(event.clientX - box.left)), 0), scans)
  }
  const laneAt = (event: PointerEvent) => Math.floor((event.clientY - svg!.getBoundingClientRect().top - top) / row)

  function take(event: PointerEvent, edge: Edge) {
    event.stopPropagation()
    ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
    dragged = { edge, to: edge.scan }
  }
  function drag(event: PointerEvent) {
    if (dragged) dragged.to = scanAt(event)
  }
  async function drop() {
    const d = dragged
    if (d && d.to !== d.edge.scan) await script.moveEdge(d.edge, d.to)
    dragged = null
  }
  function begin(event: PointerEvent) {
    if (event.button) return
    svg!.setPointerCapture(event.pointerId)
    drawn = { lane: laneAt(event), from: scanAt(event) }
  }
  function go(event: PointerEvent) {
    if (!drawn) return
    const to = scanAt(event)
    const [from, end] = [Math.min(drawn.from, to), Math.max(drawn.from, to)]
    if (end > from) script.stretch = { signal: lanes[drawn.lane]?.label ?? '', from, to: end }
  }
  function edgeKey(event: KeyboardEvent, edge: Edge) {
    const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key]
    if (by) {
      event.preventDefault()
      void script.nudge(edge, by * (event.shiftKey ? 10 : 1))
    }
    if (event.key === 'Delete' || event.key === 'Backspace') {
      event.preventDefault()
      void script.remove(edge.step)
    }
  }
  function key(event: KeyboardEvent) {
    const act: Record<string, () => void> = {
      '+': () => view.zoom(0.5),
      '-': () => view.zoom(2),
      '0': () => view.whole(),
      PageUp: () => view.pan(-Math.round(view.length / 2)),
      PageDown: () => view.pan(Math.round(view.length / 2)),
    }
    if (event.target !== event.currentTarget || !act[event.key]) return
    event.preventDefault()
    act[event.key]()
  }
  const shown = $derived(script.stretch)
  const inView = (scan: number) => scan >= view.from && scan <= view.to
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
<div
  class="overflow-hidden rounded-box border border-base-300 bg-base-100"
  bind:clientWidth={width}
  role="application"
  aria-label="Script and traces. Plus and minus zoom, 0 shows all; Tab goes to an edge, arrows move it by scans, Delete takes its step out."
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
    onpointerup={() => (drawn = null)}
    onpointercancel={() => (drawn = null)}
    role="presentation"
  >
    <ScanAxis trace={script.inputs!} {x} {width} {top} bottom={height - 4} apart={120} />
    {#if shown}
      <rect
        class="stretch"
        data-stretch
        x={x(shown.from)}
        width={Math.max(x(shown.to) - x(shown.from), 1)}
        y={shown.signal ? laneTop(lanes.findIndex((l) => l.label === shown.signal)) - 5 : top - 4}
        height={shown.signal ? tall + 10 : height - top}
      />
    {/if}
    {#each script.scripted?.ignored ?? [] as w, n (n)}
      <rect class="ignored" x={x(w.from)} width={Math.max(x(w.to) - x(w.from), 1)} y={top} height={height - top - 4} />
    {/each}
    {#each lanes as lane, i (lane.label + lane.kind)}
      {#if i && lane.kind === 'does' && lanes[i - 1].kind === 'input'}
        <line x1="6" x2={width - 6} y1={laneTop(i) - 7} y2={laneTop(i) - 7} class="rule" />
      {/if}
      <text x="10" y={laneTop(i) + tall - 3} class="name" data-name={lane.label} class:graded={lane.graded}
        >{words[lane.kind] ? '' : lane.label}</text
      >
      <text x={left - 8} y={laneTop(i) + tall - 3} text-anchor="end" class="kind">{words[lane.kind]}</text>
      {#if lane.column.type === 'BOOL' && (lane.kind === 'input' || lane.kind === 'does')}
        <path d={line(lane.column, scans, frame(i), true)} class="on" class:output={lane.kind === 'does'} />
      {/if}
      <path
        d={line(lane.column, scans, frame(i), false)}
        class="line {lane.kind}"
        data-lane="{lane.label} {lane.kind}"
      />
      {#if lane.kind === 'does'}
        {#each script.scripted?.checks.filter((c) => c.signal.toLowerCase() === lane.label.toLowerCase()) ?? [] as c, n (n)}
          <path d="M{x(c.from)} {laneTop(i) + tall + 2}v4H{x(c.to)}v-4" class="check"><title>{c.says}</title></path>
        {/each}
        {#each script.scene?.moved.filter((m) => m.signal === lane.label && inView(m.scan)) ?? [] as m (m.scan)}
          <path d="M{x(m.scan)} {laneTop(i) - 3}l-5 -7h10z" class="flag" />
        {/each}
      {/if}
    {/each}
    {#each lanes as lane, i (lane.label + lane.kind)}
      {#if lane.kind === 'input'}
        {#each script.edges(lane.label).filter((e) => inView(e.scan)) as e (e.step + e.moves + e.turn)}
          {@const at = dragged?.edge === e ? dragged.to : e.scan}
          <g
            class="edge"
            data-edge="{e.step}-{e.moves}-{e.turn}"
            role="button"
            tabindex="0"
            aria-label="{script.says(e)} at {clock(script.inputs!, e.scan)}"
            onpointerdown={(event) => take(event, e)}
            onpointermove={drag}
            onpointerup={drop}
            onkeydown={(event) => edgeKey(event, e)}
          >
            <rect x={x(at) - 6} y={laneTop(i) - 4} width="12" height={tall + 8} class="grip" />
            <line x1={x(at)} x2={x(at)} y1={laneTop(i) - 3} y2={laneTop(i) + tall + 3} class="handle" />
            {#if dragged?.edge === e}<text x={x(at) + 8} y={laneTop(i) + tall - 3}>{clock(script.inputs!, at)}</text
              >{/if}
          </g>
        {/each}
      {/if}
    {/each}
  </svg>
</div>

<style>
  text {
    font-size: 12px;
    fill: var(--color-base-content);
  }
  .name {
    font-family: var(--font-mono);
  }
  .graded {
    font-weight: 700;
  }
  .kind {
    fill-opacity: 0.8;
  }
  .rule {
    stroke: var(--color-base-content);
    stroke-opacity: 0.35;
  }
  .on {
    fill: var(--color-primary);
    fill-opacity: 0.45;
  }
  .on.output {
    fill-opacity: 0.8;
  }
  .line {
    fill: none;
    stroke: var(--color-base-content);
    stroke-width: 2;
  }
  .line.expected,
  .line.was {
    stroke-dasharray: 5 3;
    stroke: var(--color-error);
  }
  .flag {
    fill: var(--color-error);
  }
  .stretch {
    fill: var(--color-info);
    fill-opacity: 0.18;
    stroke: var(--color-info);
  }
  .ignored {
    fill: var(--color-base-content);
    fill-opacity: 0.12;
  }
  .check {
    fill: none;
    stroke: var(--color-success);
    stroke-width: 2;
  }
  .edge {
    cursor: ew-resize;
  }
  .grip {
    fill: transparent;
  }
  .handle {
    stroke: var(--color-info);
    stroke-width: 3;
  }
  .edge:focus-visible {
    outline: none;
  }
  .edge:focus-visible .grip {
    fill: var(--color-info);
    fill-opacity: 0.3;
    stroke: var(--color-info);
  }
</style>
