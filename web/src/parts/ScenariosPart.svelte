<script lang="ts">
  // The scenarios: which there are, and one of them, its script above what the solution does with it.
  import { Script } from '../state/script.svelte'
  import type { Workshop } from '../state/workshop.svelte'
  import ScenarioList from './ScenarioList.svelte'
  import ScenarioPart from './ScenarioPart.svelte'

  let { workshop: w }: { workshop: Workshop } = $props()
  let chosen = $state(0)
  const list = $derived(w.outline!.form.scenarios)
  const n = $derived(Math.min(chosen, list.length - 1))
  const script = $derived(new Script(w, n))
</script>

<div
  class="grid min-h-0 grow grid-cols-[minmax(0,1fr)] overflow-y-auto md:grid-cols-[14rem_minmax(0,1fr)] md:overflow-hidden"
>
  <ScenarioList workshop={w} bind:chosen={() => n, (c) => (chosen = c)} />
  {#if n < 0}
    <div class="flex flex-col gap-2 p-6">
      <p>A scenario is one scripted run: what is done to the devices, and what should happen.</p>
      <p class="opacity-80">Give it a name that says what it shows, such as “stays on after release”.</p>
    </div>
  {:else}{#key n}<ScenarioPart {script} />{/key}{/if}
</div>
