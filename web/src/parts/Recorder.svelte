<script lang="ts">
  // The panel, pressed while it records: what is done becomes the script.
  import { onDestroy } from 'svelte'
  import { Rig } from '../state/rig.svelte'
  import type { Script } from '../state/script.svelte'
  import BenchPanel from './BenchPanel.svelte'

  let { script }: { script: Script } = $props()
  // svelte-ignore state_referenced_locally
  const rig = new Rig(script.workshop)
  onDestroy(() => rig.end())
  $effect(() => rig.follow())
  const bench = $derived(rig.bench)
  let recording = $state(false)
  const seconds = $derived(((bench?.view?.scan ?? 0) * (bench?.periodMs ?? 10)) / 1000)

  async function begin() {
    await rig.afresh()
    recording = true
    bench?.run()
  }
  async function end() {
    bench?.pause()
    recording = false
    await script.workshop.change('record', { scenario: script.number })
  }
</script>

<div class="flex flex-wrap items-center gap-2 text-sm">
  {#if recording}
    <button class="btn btn-primary btn-sm" onclick={end}>Stop: this is the script</button>
    <button
      class="btn btn-ghost btn-sm"
      onclick={() => {
        bench?.pause()
        recording = false
      }}>Leave the script as it was</button
    >
    <span role="status" class="tabular-nums" data-seconds>{seconds.toFixed(1)} s</span>
  {:else}
    <button class="btn btn-primary btn-sm" data-record disabled={!bench?.loaded} onclick={begin}>Record</button>
    <span class="opacity-80"
      >Press the devices as a learner would; time runs from Record on. It takes the place of the script above; Undo
      brings that back.</span
    >
  {/if}
</div>
{#if bench?.loaded}{#key bench}<BenchPanel {bench} />{/key}{/if}
