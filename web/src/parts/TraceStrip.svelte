<script lang="ts">
  // The trace of the watched values. A click or the arrow keys go back to a scan; a pulse of one scan has a mark above it.
  import type { Lane } from '../core/core'
  import type { Bench } from '../state/bench.svelte'

  let { bench }: { bench: Bench } = $props()
  let width = $state(900)
  const names = 190
  const lane = 30
  const window = $derived(bench.window)
  /** The lanes, each with the other program's beneath it where there is one and it differs. */
  const lanes = $derived.by(() => {
    if (!bench.partner) return bench.lanes
    const other = new Map(bench.partner.lanes.map((l) => [l.name, l]))
    return bench.lanes.flatMap((l) => {
      const o = other.get(l.name)
      return o && JSON.stringify(o.changes) !== JSON.stringify(l.changes) ? [l, { ...o, name: l.name + ' other' }] : [l]
    })
  })
  const paired = (name: string) => / (expected|other)$/.test(name)
  const scale = $derived((width - names - 12) / bench.span)
  const x = (scan: number) => names + (scan - window.from) * scale
  const cursor = $derived(bench.view?.scan ?? 0)

  function steps(l: Lane, top: number): string {
    const values = l.changes.map((c) => c[1])
    const low = l.bool ? 0 : Math.min(...values)
    const high = l.bool ? 1 : Math.max(...values)
    const y = (v: number) => top + 22 - (high > low ? ((v - low) / (high - low)) * 16 : 0)
    let path = ''
    l.changes.forEach(([scan, v], n) => {
      const end = l.changes[n + 1]?.[0] ?? Math.min(bench.view?.scans ?? scan, window.to)
      path += `${n ? 'V' + y(v) : `M${x(scan)} ${y(v)}`}H${x(end)}`
    })
    return path
  }
  /** Where a BOOL was TRUE for one scan. */
  const pulses = (l: Lane) =>
    l.bool ? l.changes.filter(([scan, v], n) => v === 1 && n > 0 && l.changes[n + 1]?.[0] === scan + 1).map(([scan]) => scan) : []

  function point(event: PointerEvent) {
    const box = (event.currentTarget as Element).getBoundingClientRect()
    if (event.clientX - box.left > names) void bench.look(Math.floor((event.clientX - box.left - names) / scale) + window.from)
  }
  function keys(event: KeyboardEvent) {
    const by = { ArrowLeft: -1, ArrowRight: 1, PageUp: -100, PageDown: 100 }[event.key]
    if (by === undefined) return
    event.preventDefault()
    void bench.look(cursor + by)
  }
  const spans = [50, 200, 400, 1000, 6000, 60000]
</script>

<section aria-label="Trace" class="flex flex-col gap-1" bind:clientWidth={width}>
  <div class="flex flex-wrap items-center gap-2 text-sm">
    <span role="status" data-testid="scan" class="font-medium tabular-nums">{bench.at === null ? 'Now' : 'Back'}: scan {cursor} ({bench.view?.time ?? '0 s'})</span>
    <button class="btn btn-xs" onclick={() => bench.look(cursor - 1)}>One scan back</button>
    <button class="btn btn-xs" disabled={bench.at === null} onclick={() => bench.look(cursor + 1)}>One scan on</button>
    <button class="btn btn-xs" disabled={bench.at === null} onclick={() => bench.look(bench.view!.scans - 1)}>To now</button>
    <button class="btn btn-xs" disabled={bench.at === null} title="Forget what came after, and go on from this scan" onclick={() => bench.back()}>Go on from here</button>
    <label class="ml-auto flex items-center gap-1">Width
      <select class="select select-xs w-32" value={bench.span} onchange={(e) => bench.zoom(Number(e.currentTarget.value))}>
        {#each spans as s (s)}<option value={s}>{s} scans</option>{/each}
      </select>
    </label>
  </div>
  <div class="relative">
    <!-- The names are buttons of their own, above the picture. -->
    <ul class="absolute top-0 left-0 w-46" aria-label="Watched signals">
      {#each lanes as l (l.name)}
        <li class="flex h-7.5 items-center gap-1">
          <button class="btn btn-ghost btn-xs min-w-0 grow justify-start overflow-hidden px-1 font-mono disabled:font-normal disabled:text-base-content disabled:italic" title="To the next change of {l.name}" disabled={paired(l.name)} onclick={() => bench.nextChange(l.name, false)}>{l.name}</button>
          {#if !paired(l.name)}<button class="btn btn-ghost btn-xs px-1" aria-label="To the change of {l.name} before" onclick={() => bench.nextChange(l.name, true)}>‹</button>{/if}
        </li>
      {/each}
    </ul>
    <svg {width} height={lanes.length * lane + 8} class="block cursor-crosshair" role="slider" tabindex="0" aria-label="Scan looked at" aria-valuemin={bench.view?.first ?? 0} aria-valuemax={Math.max((bench.view?.scans ?? 1) - 1, 0)} aria-valuenow={cursor} onpointerdown={point} onkeydown={keys}>
      {#if scale >= 7}
        {#each Array(bench.span + 1) as _, n (n)}<path d="M{x(window.from + n)} 0V{lanes.length * lane}" class="grid" />{/each}
      {/if}
      {#each lanes as l, n (l.name)}
        <path d="M{names} {n * lane + 26}H{width - 12}" class="grid" />
        <path d={steps(l, n * lane)} class="line" />
        {#each pulses(l) as scan (scan)}<path d="M{x(scan) + scale / 2} {n * lane + 5}l-4 -5h8z" class="pulse"><title>{l.name}: TRUE for one scan, {scan}</title></path>{/each}
      {/each}
      <path d="M{x(cursor) + scale / 2} 0V{lanes.length * lane + 6}" class="cursor" />
    </svg>
  </div>
</section>

<style>
  .grid { stroke: var(--color-base-300); stroke-width: 1; }
  .line { stroke: var(--color-base-content); stroke-width: 1.8; fill: none; }
  .pulse { fill: var(--color-error); }
  .cursor { stroke: var(--color-info); stroke-width: 2; }
</style>
