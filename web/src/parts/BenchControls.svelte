<script lang="ts">
  // Run, stop, step, begin anew, at what speed.
  import type { Bench, Speed } from '../state/bench.svelte'
  import type { Written } from '../state/written.svelte'
  import { taken } from '../state/rehearsal.svelte'

  let { bench, draft }: { bench: Bench; draft: Written } = $props()
  let n = $state(10)
  const speeds: Speed[] = ['scan a second', 'a tenth', 'real', 'ten times']
  const words: Record<Speed, string> = {
    'scan a second': 'One scan a second',
    'a tenth': 'A tenth of real time',
    real: 'Real time',
    'ten times': 'Ten times real time',
  }
  const scenario = $derived(taken.now?.exercise === draft.exercise.name ? taken.now : null)
</script>

{#if bench.ready}
  <div class="flex shrink-0 flex-wrap items-center gap-1 text-sm">
    {#if bench.running}
      <button class="btn btn-primary btn-xs w-18" data-run onclick={() => bench.pause()}>Pause</button>
    {:else}
      <button class="btn btn-primary btn-xs w-18" data-run disabled={!bench.loaded} onclick={() => bench.run()}
        >Run</button
      >
    {/if}
    <button class="btn btn-xs" disabled={!bench.loaded} onclick={() => bench.scans(1)}>One scan</button>
    <span class="join">
      <input
        type="number"
        class="input join-item input-xs w-16"
        min="1"
        max="100000"
        aria-label="How many scans"
        bind:value={n}
      />
      <button class="btn join-item btn-xs" disabled={!bench.loaded || !(n > 0)} onclick={() => bench.scans(n)}
        >scans</button
      >
    </span>
    <button
      class="btn btn-xs"
      onclick={() => {
        bench.pause()
        void bench.start(draft.file, draft.text)
      }}>Restart</button
    >
    <button
      class="btn btn-xs"
      disabled={!bench.view}
      title="Loss of supply and return: everything begins anew but what is declared RETAIN; the devices stay as they are"
      onclick={() => bench.supply()}>Supply off and on</button
    >
    <select class="select select-xs w-40" aria-label="Speed" bind:value={bench.speed}
      >{#each speeds as s (s)}<option value={s}>{words[s]}</option>{/each}</select
    >
    {#if scenario}
      <button
        class="btn btn-xs"
        onclick={() => {
          bench.pause()
          void bench.play(draft.file, draft.text, scenario)
        }}>Play “{scenario.evidence.scenario}”</button
      >
    {/if}
  </div>
{/if}
