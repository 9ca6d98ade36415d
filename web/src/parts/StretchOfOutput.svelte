<script lang="ts">
  // What can be expected of one of the solution's signals in a stretch.
  import type { Script, Stretch } from '../state/script.svelte'

  let { script, stretch: s }: { script: Script; stretch: Stretch } = $props()
  let times = $state(1)
  let value = $state('')
  const bool = $derived(script.lanes.find((l) => l.label === s.signal)?.column.type === 'BOOL')
</script>

{#if bool}
  <button class="btn btn-xs" onclick={() => script.check({ is: 'true' }, s)}>Check: TRUE throughout</button>
  <button class="btn btn-xs" onclick={() => script.check({ is: 'false' }, s)}>Check: FALSE throughout</button>
  <span class="join"
    ><input
      type="number"
      min="0"
      class="input join-item input-xs w-14"
      aria-label="How often it rises"
      bind:value={times}
    /><button class="btn join-item btn-xs" onclick={() => script.check({ rises: String(times) }, s)}
      >Check: rises so often</button
    ></span
  >
{:else}
  <input class="input input-xs w-24" aria-label="Value" placeholder="value" bind:value />
  <button class="btn btn-xs" disabled={!value} onclick={() => script.check({ is: value }, s)}
    >Check: has this value</button
  >
{/if}
