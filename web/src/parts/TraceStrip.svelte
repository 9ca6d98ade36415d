<script lang="ts">
  // The trace of the watched values, on an axis of time. A press or the arrow keys go back to a scan; near an edge the cursor snaps
  // to it. A pulse of one scan has a mark above it, timers are ramps up to their preset, counters steps.
  import type { Lane } from '../core/core'
  import { laneAt, type Bench } from '../state/bench.svelte'
  import { lengthOf, tickEvery } from '../trace'

  let { bench }: { bench: Bench } = $props()
  let width = $state(900)
  const names = 200
  const lane = 30
  const axis = 22
  const window = $derived(bench.window)
  /** The lanes, each with the other program's beneath it where there is one and it differs. */
  const lanes = $derived.by(() => {
    if (!bench.partner) return bench.lanes
    const other = new Map(bench.partner.lanes.map((l) => [l.name, l]))
    return bench.lanes.flatMap((l) => {
      const o = other.get(l.name)
      return o && JSON.stringify(o.segments) !== JSON.stringify(l.segments)
        ? [l, { ...o, name: l.name + ' other' }]
        : [l]
    })
  })
  const paired = (name: string) => / (expected|drawn|other)$/.test(name)
  const scale = $derived((width - names - 12) / bench.span)
  const x = (scan: number) => names + (scan - window.from) * scale
  const cursor = $derived(bench.view?.scan ?? 0)
  const ends = $derived(Math.min(bench.view?.scans ?? 0, window.to))
  const every = $derived(tickEvery(bench.span, bench.periodMs, (width - names) / 90))
  const ticks = $derived(
    Array.from(
      { length: Math.floor(bench.span / every) + 1 },
      (_, n) => (Math.ceil(window.from / every) + n) * every,
    ).filter((t) => t <= window.to),
  )
  const moment = (scan: number) => lengthOf(Math.round(scan * bench.periodMs * 1e6))
  const bottom = $derived(lanes.length * lane)

  /** The least and the greatest value of a lane; what runs towards a preset is drawn against it. */
  function range(l: Lane): [number, number] {
    if (l.kind === 'bool') return [0, 1]
    let [low, high] = l.preset === undefined ? [Infinity, -Infinity] : [0, l.preset]
    l.segments.forEach(([scan, v, slope], n) => {
      const last = v + slope * ((l.segments[n + 1]?.[0] ?? ends) - 1 - scan)
      low = Math.min(low, v, last)
      high = Math.max(high, v, last)
    })
    return [low, high]
  }
  const height = (l: Lane, top: number) => {
    const [low, high] = range(l)
    return (v: number) => top + 23 - (high > low ? ((v - low) / (high - low)) * 16 : 0)
  }
  function line(l: Lane, top: number): string {
    const y = height(l, top)
    return l.segments
      .map(([scan, v, slope], n) => {
        const end = l.segments[n + 1]?.[0] ?? ends
        const to = slope ? `L${x(end)} ${y(v + slope * (end - 1 - scan))}` : `H${x(end)}`
        return `${n ? `L${x(scan)} ${y(v)}` : `M${x(scan)} ${y(v)}`}${to}`
      })
      .join('')
  }
  /** Where a BOOL is TRUE. */
  const stretches = (l: Lane) =>
    l.kind !== 'bool'
      ? []
      : l.segments.flatMap(([scan, v], n) => (v ? [{ from: scan, to: l.segments[n + 1]?.[0] ?? ends }] : []))
  /** Where a BOOL was TRUE for one scan. */
  const pulses = (l: Lane) =>
    l.kind === 'bool'
      ? l.segments
          .filter(([scan, v], n) => v === 1 && n > 0 && l.segments[n + 1]?.[0] === scan + 1)
          .map(([scan]) => scan)
      : []
  /** Numbers written into a lane that does not climb, where there is room. */
  const labels = (l: Lane) =>
    l.kind === 'bool'
      ? []
      : l.segments.flatMap(([scan, v, slope], n) => {
          const text = said(l, v)
          const room = x(l.segments[n + 1]?.[0] ?? ends) - x(scan)
          return !slope && room > text.length * 7 + 10 ? [{ x: x(scan) + 4, text }] : []
        })
  const said = (l: Lane, v: number) => (l.kind === 'time' ? lengthOf(v) : String(Number(v.toPrecision(12))))
  /** What stands beside a lane's name: its value at the cursor, of its preset. */
  function value(l: Lane) {
    const v = laneAt(l, cursor)
    if (v === undefined) return ''
    if (l.kind === 'bool') return v ? 'TRUE' : 'FALSE'
    return (
      (paired(l.name) ? said(l, v) : (bench.value(l.name) ?? said(l, v))) +
      (l.preset === undefined ? '' : ` of ${said(l, l.preset)}`)
    )
  }

  /** The scan under the pointer; within a few pixels of an edge of the lane that is pointed at, that edge. */
  function scanAt(event: PointerEvent): number {
    const box = (event.currentTarget as Element).getBoundingClientRect()
    const at = event.clientX - box.left
    const l = lanes[Math.floor((event.clientY - box.top) / lane)]
    const near = l?.segments.map((s) => s[0]).filter((s) => s > window.from && Math.abs(x(s) - at) < 7)
    return (
      near?.sort((a, b) => Math.abs(x(a) - at) - Math.abs(x(b) - at))[0] ??
      Math.floor((at - names) / scale) + window.from
    )
  }
  function point(event: PointerEvent) {
    const box = (event.currentTarget as Element).getBoundingClientRect()
    if (event.clientX - box.left < names || (event.type === 'pointermove' && !event.buttons)) return
    void bench.look(scanAt(event))
  }
  function keys(event: KeyboardEvent) {
    const by = { ArrowLeft: -1, ArrowRight: 1, PageUp: -100, PageDown: 100 }[event.key]
    if (by === undefined) return
    event.preventDefault()
    void bench.look(cursor + by)
  }
  /** A name of the program beside, which leads nowhere. */
  const another = 'disabled:font-normal disabled:text-base-content disabled:italic'
</script>

<section aria-label="Trace" class="relative" bind:clientWidth={width}>
  <!-- The names are buttons of their own, above the picture. -->
  <ul class="absolute top-0 left-0 w-49" aria-label="Watched signals">
    {#each lanes as l (l.name)}
      <li class="flex h-7.5 items-center gap-1">
        <button
          class="btn btn-ghost btn-xs min-w-0 shrink justify-start overflow-hidden px-1 font-mono {another}"
          title="To the next change of {l.name}"
          disabled={paired(l.name)}
          onclick={() => bench.nextChange(l.name, false)}>{l.name}</button
        >
        <span class="ml-auto min-w-0 truncate text-right text-xs font-semibold tabular-nums">{value(l)}</span>
        {#if !paired(l.name)}<button
            class="btn btn-ghost btn-xs px-1"
            aria-label="To the change of {l.name} before"
            onclick={() => bench.nextChange(l.name, true)}>‹</button
          >{/if}
      </li>
    {/each}
  </ul>
  <svg
    {width}
    height={bottom + axis}
    class="block cursor-crosshair touch-pan-y"
    role="slider"
    tabindex="0"
    aria-label="Scan looked at"
    aria-valuemin={bench.view?.first ?? 0}
    aria-valuemax={Math.max((bench.view?.scans ?? 1) - 1, 0)}
    aria-valuenow={cursor}
    aria-valuetext="scan {cursor}, {moment(cursor)}"
    onpointerdown={point}
    onpointermove={point}
    onkeydown={keys}
  >
    {#if scale >= 7}
      {#each Array(bench.span + 1) as _, n (n)}<path d="M{x(window.from + n)} 0V{bottom}" class="grid" />{/each}
    {/if}
    {#each ticks as t (t)}
      <path d="M{x(t)} 0V{bottom + 4}" class="tick" />
      <text
        x={Math.min(x(t), width - 4)}
        y={bottom + 16}
        class="axis"
        text-anchor={x(t) > width - 40 ? 'end' : 'middle'}
        >{every * bench.periodMs < 100 ? `scan ${t}` : moment(t)}</text
      >
    {/each}
    {#each lanes as l, n (l.name)}
      <path d="M{names} {n * lane + 27}H{width - 12}" class="grid" />
      {#each stretches(l) as s (s.from)}<rect
          x={x(s.from)}
          y={n * lane + 7}
          width={Math.max(x(s.to) - x(s.from), 1)}
          height="16"
          class="on"
        />{/each}
      <path d={line(l, n * lane)} class="line" class:expected={/ (expected|drawn)$/.test(l.name)} />
      {#each labels(l) as t (t.x)}<text x={t.x} y={n * lane + 20} class="value">{t.text}</text>{/each}
      {#each pulses(l) as scan (scan)}<path d="M{x(scan) + scale / 2} {n * lane + 5}l-4 -5h8z" class="pulse"
          ><title>{l.name}: TRUE for one scan, {scan}</title></path
        >{/each}
    {/each}
    <path d="M{x(cursor) + scale / 2} 0V{bottom + 6}" class="cursor" />
  </svg>
</section>

<style>
  .grid {
    stroke: var(--color-base-300);
    stroke-width: 1;
  }
  .tick {
    stroke: color-mix(in oklab, var(--color-base-content) 30%, transparent);
    stroke-width: 1;
    stroke-dasharray: 2 3;
  }
  .axis {
    font-size: 11px;
    fill: var(--color-base-content);
  }
  .value {
    font-family: var(--font-mono);
    font-size: 11px;
    fill: var(--color-base-content);
  }
  .on {
    fill: color-mix(in oklab, var(--color-primary) 70%, var(--color-base-100));
  }
  .line {
    stroke: var(--color-base-content);
    stroke-width: 1.8;
    fill: none;
  }
  .line.expected {
    stroke-dasharray: 5 3;
  }
  .pulse {
    fill: var(--color-error);
  }
  .cursor {
    stroke: var(--color-info);
    stroke-width: 2;
  }
</style>
