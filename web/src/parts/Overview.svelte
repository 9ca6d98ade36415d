<script lang="ts">
  // The whole program at a glance: a bar for each rung, what is in view, what is wrong, what was found. A press goes there.
  import type { Drawing } from '../state/drawing.svelte'

  let {
    drawing,
    tops,
    top,
    height,
    found,
    go,
  }: { drawing: Drawing; tops: number[]; top: number; height: number; found: number[]; go: (rung: number) => void } =
    $props()
  const whole = $derived(Math.max(tops.at(-1) ?? 1, height))
  const scale = $derived(height / whole)
  const wrong = $derived(new Set((drawing.draft.checked?.marks ?? []).map((m) => m.unit + ':' + m.number)))
  const bars = $derived(
    drawing.rungs.map((r, n) => ({
      y: tops[n] * scale,
      height: Math.max(1, (tops[n + 1] - tops[n]) * scale - 1),
      wide: Math.min(22, 6 + (r.geometry.items.length ?? 0) * 2),
      wrong: wrong.has(r.unit + ':' + r.number),
    })),
  )
  const hits = $derived(new Set(found))

  function press(event: PointerEvent & { currentTarget: SVGElement }) {
    const y = (event.clientY - event.currentTarget.getBoundingClientRect().top) / scale
    const n = tops.findIndex((t) => t > y)
    go(n < 0 ? drawing.rungs.length - 1 : Math.max(0, n - 1))
  }
</script>

<svg
  width="26"
  {height}
  class="overview shrink-0 cursor-pointer"
  role="img"
  aria-label="The whole program: {drawing.rungs.length} rungs"
  onpointerdown={press}
>
  <rect x="0" y={top * scale} width="26" height={height * scale} class="view" />
  {#each bars as b, n (n)}
    <rect
      x="2"
      y={b.y}
      width={b.wide}
      height={b.height}
      class="bar"
      class:wrong={b.wrong}
      class:found={hits.has(n)}
      class:here={n === drawing.index}
    />
  {/each}
</svg>

<style>
  .view {
    fill: color-mix(in oklab, var(--color-base-content) 12%, transparent);
  }
  .bar {
    fill: color-mix(in oklab, var(--color-base-content) 40%, transparent);
  }
  .bar.found {
    fill: var(--color-primary);
  }
  .bar.wrong {
    fill: var(--color-error);
  }
  .bar.here {
    fill: var(--color-info);
  }
</style>
