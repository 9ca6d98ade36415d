<script lang="ts">
  // What a block looks like in a rung: its kind and its pins.
  import type { Box } from '../core/core'

  let { block }: { block: Box } = $props()
  const inputs = $derived(block.pins.filter((p) => !p.output).slice(0, 4))
  const outputs = $derived(block.pins.filter((p) => p.output).slice(0, 4))
  const rows = $derived(Math.max(inputs.length, outputs.length, 1))
</script>

<svg width="92" height={rows * 11 + 16} viewBox="0 0 92 {rows * 11 + 16}" aria-hidden="true" class="shrink-0">
  <rect x="8" y="1" width="76" height={rows * 11 + 13} class="body" />
  <text x="46" y="10" text-anchor="middle" class="kind">{block.name}</text>
  {#each inputs as p, n (p.name)}
    <path d="M0 {n * 11 + 18}H8" class="body" /><text x="11" y={n * 11 + 21}>{p.name}</text>
  {/each}
  {#each outputs as p, n (p.name)}
    <path d="M84 {n * 11 + 18}H92" class="body" /><text x="81" y={n * 11 + 21} text-anchor="end">{p.name}</text>
  {/each}
</svg>

<style>
  .body {
    fill: none;
    stroke: currentColor;
  }
  text {
    font-family: var(--font-mono);
    font-size: 8.5px;
    fill: currentColor;
  }
  .kind {
    font-weight: 700;
  }
</style>
