<script lang="ts">
  // A scenario on paper, to be predicted with a pencil: the inputs as the script works them, and empty lanes for what is asked.
  import { scaleLinear } from 'd3-scale'
  import type { Exercise, Scenario, Trace } from '../api'
  import { line } from '../lane'
  import ScanAxis from './ScanAxis.svelte'

  let { exercise: e, scenario: s }: { exercise: Exercise; scenario: Scenario } = $props()
  const script = $derived(s.script as Trace)
  const width = 700
  const left = 130
  const row = 34
  const top = 26
  const high = $derived(top + (script.signals.length + e.graded.length) * row + 4)
  const x = $derived(scaleLinear([0, script.scans], [left, width - 8]))
  /** A line for each scan where they can be told apart. */
  const every = $derived(script.scans <= 60 ? 1 : Math.ceil(script.scans / 50))
</script>

<section class="break-inside-avoid">
  <h2 class="mt-4 mb-1 font-semibold">{s.name}</h2>
  {#if s.byHand}
    <p class="mb-1 text-sm">
      A hand works these devices, a scan sooner or later.
      <span class="mr-3">▢ predictable</span> ▢ erratic, because: {(e.reasons ?? []).map((r) => '▢ ' + r).join('   ')}
    </p>
  {/if}
  <svg
    {width}
    height={high}
    viewBox="0 0 {width} {high}"
    class="h-auto w-full"
    role="img"
    aria-label="A timing diagram to be filled in: {e.graded.map((g) => g.signal).join(', ')}"
  >
    {#each { length: Math.floor(script.scans / every) + 1 } as _, n (n)}
      <path d="M{x(n * every)} {top}V{high - 4}" class="grid" />
    {/each}
    <ScanAxis trace={script} {x} {width} {top} bottom={high - 4} apart={90} />
    {#each script.signals as c, n (c.name)}
      <text x="0" y={top + n * row + 24} class="name">{c.name}</text>
      <path
        d={line(c, script.scans, { from: 0, to: script.scans, x, top: top + n * row + 8, tall: 18 }, false)}
        class="line"
      />
    {/each}
    {#each e.graded as g, n (g.signal)}
      {@const y = top + (script.signals.length + n) * row + 26}
      <text x="0" y={y - 2} class="name asked">{g.signal}</text>
      <path d="M{left} {y}H{width - 8}" class="ground" />
    {/each}
  </svg>
</section>

<style>
  .name {
    font-family: var(--font-mono);
    font-size: 13px;
    fill: currentColor;
  }
  .asked {
    font-weight: 700;
  }
  .grid {
    stroke: color-mix(in oklab, currentColor 30%, transparent);
    stroke-dasharray: 2 3;
  }
  .line {
    fill: none;
    stroke: currentColor;
    stroke-width: 2;
  }
  .ground {
    stroke: currentColor;
    stroke-dasharray: 1 3;
  }
</style>
