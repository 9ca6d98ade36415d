<script lang="ts">
  // The axis of a diagram of scans: a line and a word at round times, or, from close by, at scans.
  import type { ScaleLinear } from 'd3-scale'
  import type { Trace } from '../api'
  import { clock } from '../trace'

  let {
    trace,
    x,
    width,
    top,
    bottom,
    apart = 130,
  }: {
    trace: Trace
    x: ScaleLinear<number, number>
    width: number
    /** Where the lanes begin and end. */
    top: number
    bottom: number
    /** How far apart two words are, in pixels. */
    apart?: number
  } = $props()
  const ticks = $derived(x.ticks(Math.max(Math.floor(width / apart), 2)).filter((t: number) => Number.isInteger(t)))
  const close = $derived(x(1) - x(0) > 6)
  /** A word at the edge is moved inwards; the one before it may then be in its way. */
  const inwards = (t: number) => x(t) > width - 40
  const last = $derived(ticks.at(-1) ?? 0)
  const said = (t: number) => t === last || !inwards(last) || x(last) - x(t) > 80
</script>

{#each ticks as t (t)}
  <line x1={x(t)} x2={x(t)} y1={top - 4} y2={bottom} />
  {#if said(t)}
    <text x={x(t)} y={top / 2} text-anchor={inwards(t) ? 'end' : 'middle'}>{close ? `scan ${t}` : clock(trace, t)}</text
    >
  {/if}
{/each}

<style>
  line {
    stroke: var(--color-base-300);
  }
  text {
    font-size: 12px;
    fill: var(--color-base-content);
    dominant-baseline: middle;
  }
</style>
