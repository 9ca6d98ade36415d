<script lang="ts">
  // The panel as it is wired so far, alive: with the solution behind it as soon as there is one that runs.
  import { onDestroy } from 'svelte'
  import type { Workshop } from '../state/workshop.svelte'
  import { Rig } from '../state/rig.svelte'
  import PanelPane from './PanelPane.svelte'
  import PanelViews from './PanelViews.svelte'

  let { workshop: w }: { workshop: Workshop } = $props()
  // svelte-ignore state_referenced_locally
  const rig = new Rig(w)
  onDestroy(() => rig.end())
  let wired = $state(localStorage.getItem('celandine.panel') === 'wiring')
  $effect(() => rig.follow())
</script>

<div class="mb-2 flex items-center gap-2">
  <PanelViews bind:wired />
  {#if rig.bench?.loaded}
    <button class="btn btn-primary btn-xs" onclick={() => (rig.bench!.running ? rig.bench!.pause() : rig.bench!.run())}
      >{rig.bench.running ? 'Pause' : 'Run'}</button
    >
    <span class="text-sm opacity-80">{rig.runs ? 'with the solution' : 'without a program'}</span>
  {/if}
</div>
{#if rig.bench}{#key rig.bench}<PanelPane bench={rig.bench} {wired} />{/key}{/if}
