<script lang="ts">
  // What can be done to one input in a stretch: its device worked once or several times, its wire broken, its number set or ramped.
  import type { Point } from '../api'
  import type { Script, Stretch } from '../state/script.svelte'

  let { script, stretch: s, point }: { script: Script; stretch: Stretch; point: Point } = $props()
  let times = $state(3)
  let value = $state('')
  let until = $state('')
  const isButton = $derived(point.device === 'button')
  const verb = $derived(isButton ? 'Press' : 'On')
  /** A ramp has ten steps. */
  const ramp = () => script.ramp(s, Number(value) || 0, Number(until), Math.max(1, Math.round((s.to - s.from) / 10)))
</script>

{#if point.type === 'BOOL'}
  <button class="btn btn-xs" onclick={() => script.work(s)}>{verb}</button>
  <button class="btn btn-xs" onclick={() => script.work({ ...s, to: s.from + 1 })}>{verb} for 1 scan</button>
  {#if isButton}
    <span class="join"
      ><input
        type="number"
        min="2"
        class="input join-item input-xs w-14"
        aria-label="How many times"
        bind:value={times}
      /><button class="btn join-item btn-xs" onclick={() => script.repeat(s, times)}>times</button></span
    >
  {/if}
  <button class="btn btn-xs" onclick={() => script.breakWire(s)}>Break the wire</button>
{:else}
  <input class="input input-xs w-20" aria-label="Value" placeholder="value" bind:value />
  <button class="btn btn-xs" disabled={!value} onclick={() => script.work(s, value)}>Set</button>
  <input class="input input-xs w-20" aria-label="Value at the end" placeholder="to" bind:value={until} />
  <button class="btn btn-xs" disabled={!until} onclick={ramp}>Ramp</button>
{/if}
