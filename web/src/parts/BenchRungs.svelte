<script lang="ts">
  // The rungs of a program at work.
  import type { Bench } from '../state/bench.svelte'
  import RungDrawing from './RungDrawing.svelte'

  let { bench, label }: { bench: Bench; label: string } = $props()
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<div class="flex max-h-112 flex-col gap-2 overflow-auto" aria-label={label} role="region" tabindex="0">
  {#each bench.rungs as r, n (r.unit + ':' + r.number)}
    <div>
      <p class="text-sm font-medium">{n + 1} {r.geometry.title}</p>
      <RungDrawing
        rung={r}
        flow={(start) => bench.flow(start)}
        face={(i) => bench.face(bench.inside(bench.units[r.unit], i.label), i)}
      />
    </div>
  {/each}
</div>
