<script lang="ts">
  // A program to be read: its rungs drawn, or its text, in the language that is chosen.
  import type { Solution } from '../api'
  import type { Core } from '../core/core'
  import { words } from '../state/written.svelte'
  import DrawnProgram from './DrawnProgram.svelte'
  import Editor from './Editor.svelte'

  let { programs, core }: { programs: Solution[]; core: Core } = $props()
  let language = $state('')
  const shown = $derived(programs.find((p) => p.language === language) ?? programs[0])
  /** Without the core the text stands alone. */
  const drawn = $derived(core.draw(shown).catch(() => ({ rungs: [], networks: [] })))
</script>

<section aria-label="The program" class="flex flex-col gap-2">
  {#if programs.length > 1}
    <div role="tablist" aria-label="The program in" class="tabs tabs-box tabs-xs self-start">
      {#each programs as p (p.file)}
        <button
          role="tab"
          class="tab text-base-content"
          aria-selected={p === shown}
          class:tab-active={p === shown}
          onclick={() => (language = p.language)}>{words[p.language]}</button
        >
      {/each}
    </div>
  {/if}
  {#await drawn then { rungs, networks }}
    {#if rungs.length || networks.length}<DrawnProgram {rungs} {networks} of="the program" />
    {:else}{#key shown.file}<Editor text={shown.text} diagnostics={[]} readonly label="The program's text" />{/key}{/if}
  {/await}
</section>
