<script lang="ts">
  // A lamp, motor or valve with its state in shape and word.
  import type { Point } from '../api'
  import type { Bench } from '../state/bench.svelte'

  let { bench, point: p }: { bench: Bench; point: Point } = $props()
  const on = (p: Point) => bench.value(p.name) === 'TRUE'
  const bit = (p: Point) => bench.value(p.name) ?? ''
  const word = (p: Point) =>
    p.type === 'BOOL' ? (bench.devices[p.device]?.[on(p) ? 'on' : 'off'] ?? '') : bit(p) + (p.unit ? ' ' + p.unit : '')
</script>

<div class="flex items-center gap-2 rounded-box border border-base-300 bg-base-100 px-2 py-1" data-output={p.name}>
  <svg width="26" height="26" aria-hidden="true" class="shrink-0">
    <circle cx="13" cy="13" r="10" class="lamp" class:on={on(p)} />
    {#if on(p)}<path d="M13 0v5M13 21v5M0 13h5M21 13h5" class="rays" />{/if}
  </svg>
  <span class="flex flex-col text-sm leading-tight"
    ><span class="font-medium">{p.label}</span><span>{word(p)}</span><span class="font-mono text-xs"
      >{p.name} {bit(p)}</span
    ></span
  >
</div>

<style>
  .lamp {
    fill: var(--color-base-200);
    stroke: var(--color-base-content);
    stroke-width: 1.5;
  }
  .lamp.on {
    fill: var(--color-primary);
    stroke-width: 3;
  }
  .rays {
    stroke: var(--color-base-content);
    stroke-width: 2;
  }
</style>
