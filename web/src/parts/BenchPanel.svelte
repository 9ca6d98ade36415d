<script lang="ts">
  // The panel: where its devices have places, as they stand there, over a picture if there is one; the others in rows.
  import type { Point } from '../api'
  import type { Bench } from '../state/bench.svelte'
  import InputTile from './InputTile.svelte'
  import OutputTile from './OutputTile.svelte'
  import PlacedPanel from './PlacedPanel.svelte'

  let {
    bench,
    place,
  }: {
    bench: Bench
    /** Takes a new place of a device, where they can be arranged. */
    place?: (point: Point, at: [number, number]) => void
  } = $props()
  const e = $derived(bench.exercise)
  const placed = $derived(bench.points.filter((p) => p.place))
  const loose = (list: Point[]) => list.filter((p) => !p.place)
</script>

{#if placed.length || e.picture}<PlacedPanel {bench} {placed} {place} />{/if}
<ul aria-label="Outputs" class="flex flex-wrap gap-1.5">
  {#each loose(e.outputs) as p (p.name)}<li><OutputTile {bench} point={p} /></li>{/each}
</ul>
<ul aria-label="Inputs" class="grid grid-cols-[repeat(auto-fill,minmax(9.5rem,1fr))] gap-1.5">
  {#each loose(e.inputs) as p (p.name)}<li><InputTile {bench} point={p} /></li>{/each}
</ul>
