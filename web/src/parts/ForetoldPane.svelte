<script lang="ts">
  // Before one's own program runs: what will it do? Drawn for practice, without marks, then run to see.
  import type { Trace } from '../api'
  import type { Foretold } from '../state/foretold.svelte'
  import DrawnDiagram from './DrawnDiagram.svelte'

  let {
    foretold,
    ready,
    run,
    skip,
  }: {
    foretold: Foretold
    /** There is a program that can run. */
    ready: boolean
    run: (scenario: number) => void
    skip: () => void
  } = $props()
  let chosen = $state(0)
  const scenario = $derived(foretold.scenarios[chosen])
</script>

<div class="flex flex-col gap-2 text-sm" role="group" aria-label="Before it runs">
  <div class="flex flex-wrap items-center gap-2">
    <p><b>Before it runs:</b> what will your program do? Draw it; no mark comes of it.</p>
    {#if foretold.scenarios.length > 1}
      <select class="select w-auto select-xs" aria-label="Scenario to predict" bind:value={chosen}>
        {#each foretold.scenarios as s, n (s.name)}<option value={n}>{s.name}</option>{/each}
      </select>
    {:else}<span class="opacity-80">{scenario.name}</span>{/if}
    <button class="btn btn-primary btn-xs" disabled={!ready} onclick={() => run(chosen)}>Run it and see</button>
    {#if !foretold.over}<button class="btn btn-ghost btn-xs" onclick={skip}>Not now</button>{/if}
  </div>
  {#key scenario.name}
    <DrawnDiagram
      script={scenario.script as Trace}
      asked={foretold.asked}
      row={30}
      drawn={foretold.of(scenario)}
      change={(signal, line) => foretold.line(scenario, signal, line)}
    />
  {/key}
</div>
