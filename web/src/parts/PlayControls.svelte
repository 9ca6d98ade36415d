<script lang="ts">
  // Runs a played script on, or one scan at a time, and goes back and on in what was played.
  import type { Bench } from '../state/bench.svelte'

  let { bench }: { bench: Bench } = $props()
  const cursor = $derived(bench.view?.scan ?? 0)
</script>

<div class="flex flex-wrap items-center gap-1.5">
  {#if bench.running}
    <button class="btn btn-primary btn-xs w-18" onclick={() => bench.pause()}>Pause</button>
  {:else}
    <button class="btn btn-primary btn-xs w-18" disabled={!bench.loaded} onclick={() => bench.run()}>Run</button>
  {/if}
  <button class="btn btn-xs" disabled={!bench.loaded} onclick={() => bench.scans(1)}>One scan</button>
  <span role="status" class="font-medium tabular-nums">Scan {cursor} ({bench.view?.time ?? ''})</span>
  <span class="join">
    <button class="btn join-item btn-xs" aria-label="One scan back" onclick={() => bench.look(cursor - 1)}>‹</button>
    <button
      class="btn join-item btn-xs"
      aria-label="One scan on"
      disabled={bench.at === null}
      onclick={() => bench.look(cursor + 1)}>›</button
    >
  </span>
</div>
