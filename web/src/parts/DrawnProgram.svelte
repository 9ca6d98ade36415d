<script lang="ts">
  // A program as a picture: its rungs and networks, alive where it is on a bench.
  import type { Snippet } from 'svelte'
  import type { PlacedNetwork, Rung } from '../core/core'
  import type { Bench } from '../state/bench.svelte'
  import NetworkDrawing from './NetworkDrawing.svelte'
  import RungDrawing from './RungDrawing.svelte'

  let {
    rungs,
    networks,
    of,
    bench = null,
  }: { rungs: Rung[]; networks: PlacedNetwork[]; /** Whose they are. */ of: string; bench?: Bench | null } = $props()
</script>

{#snippet one(what: string, at: { number: number; geometry: { title: string } }, n: number, drawing: Snippet)}
  <div>
    <p class="text-sm font-medium">{n + 1} {at.geometry.title}</p>
    <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
    <div class="overflow-x-auto" role="region" aria-label="{what} {n + 1} of {of}" tabindex="0">
      {@render drawing()}
    </div>
  </div>
{/snippet}

{#each rungs as r, n (r.unit + ':' + r.number)}
  {#snippet rung()}
    <RungDrawing
      rung={r}
      flow={(start) => bench?.flow(start)}
      face={(i) => bench?.face(bench.inside(bench.units[r.unit], i.label), i) ?? ''}
    />
  {/snippet}
  {@render one('Rung', r, n, rung)}
{/each}
{#each networks as w, n (w.unit + ':' + w.number)}
  {#snippet network()}
    <NetworkDrawing
      network={w}
      carries={(l) => bench?.carries(w, l)}
      face={(b) => bench?.face(bench.inside(bench.units[w.unit], b.instance), b) ?? ''}
    />
  {/snippet}
  {@render one('Network', w, n, network)}
{/each}
