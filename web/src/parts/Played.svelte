<script lang="ts">
  // A script on the bench: its controls, the trace, and the rungs of one program, or of two side by side.
  import type { Bench } from '../state/bench.svelte'
  import BenchDrawing from './BenchDrawing.svelte'
  import PlayControls from './PlayControls.svelte'
  import TraceStrip from './TraceStrip.svelte'

  let {
    bench,
    says,
    label = 'The program at work',
    other = '',
  }: {
    bench: Bench
    /** What the lines of the trace are. */
    says: string
    label?: string
    /** What the program beside it is called. */
    other?: string
  } = $props()
  const sides = $derived([[bench, label] as const, [bench.partner, other] as const])
</script>

<div class="flex flex-col gap-2 rounded-box border border-base-300 p-2" data-playing={bench.view?.scans}>
  <PlayControls {bench} />
  <p class="text-xs opacity-80">{says}</p>
  <div class="h-56 overflow-y-auto"><TraceStrip {bench} /></div>
  <div class="grid gap-3" class:lg:grid-cols-2={bench.partner}>
    {#each sides as [one, name] (name)}
      {#if one?.loaded}<div>
          <h3 class="mb-1 text-xs font-semibold">{name}</h3>
          <BenchDrawing bench={one} label={name} />
        </div>{/if}
    {/each}
  </div>
</div>
