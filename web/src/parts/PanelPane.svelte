<script lang="ts">
  // The devices, to be worked: as buttons and lamps, or as they are wired.
  import type { Point } from '../api'
  import type { Bench } from '../state/bench.svelte'
  import BenchPanel from './BenchPanel.svelte'
  import WiringView from './WiringView.svelte'

  let {
    bench,
    wired,
    place,
  }: {
    bench: Bench
    /** As it is wired. */
    wired: boolean
    /** Takes a new place of a device, where they can be arranged. */
    place?: (point: Point, at: [number, number]) => void
  } = $props()
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<section aria-label="Panel" class="flex min-h-0 grow flex-col gap-2 overflow-y-auto px-3 py-1" tabindex="0">
  {#if bench.problem && !bench.ready}<p class="alert alert-soft" role="alert">{bench.problem}</p>
  {:else if !bench.ready}<p role="status" class="text-sm">Getting the bench ready …</p>
  {:else}
    {#if bench.view?.forced.length}
      <p
        role="alert"
        class="flex flex-wrap items-center gap-2 rounded-field border-2 border-error bg-base-100 p-2 text-sm"
      >
        <span
          ><b>Forced:</b> <span class="font-mono">{bench.view.forced.join(', ')}</span>. A hand-in never carries a
          force.</span
        >
        <button class="btn btn-xs ml-auto" onclick={() => bench.release()}>Release all</button>
      </p>
    {/if}
    {#if wired}<WiringView {bench} />{:else}<BenchPanel {bench} {place} />{/if}
  {/if}
</section>
