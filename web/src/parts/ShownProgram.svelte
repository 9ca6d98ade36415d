<script lang="ts">
  // A program to be read: its rungs drawn, or its text, in the language that is chosen.
  import type { Solution } from '../api'
  import type { Core, Rung } from '../core/core'
  import { words } from '../state/written.svelte'
  import Editor from './Editor.svelte'
  import RungDrawing from './RungDrawing.svelte'

  let { programs, core }: { programs: Solution[]; core: Core } = $props()
  let language = $state('')
  const shown = $derived(programs.find((p) => p.language === language) ?? programs[0])
  /** Without the core the text stands alone. */
  const drawn = $derived(
    shown.language === 'ladder'
      ? core.draw(shown).then(
          (d) => d.rungs,
          (): Rung[] => [],
        )
      : Promise.resolve<Rung[]>([]),
  )
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
  {#await drawn then rungs}
    {#each rungs as r (r.unit + ':' + r.number)}
      <div>
        <p class="text-sm font-medium">{r.number + 1} {r.geometry.title}</p>
        <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
        <div class="overflow-x-auto" role="region" aria-label="Rung {r.number + 1} of the program" tabindex="0">
          <RungDrawing rung={r} flow={() => undefined} />
        </div>
      </div>
    {:else}
      {#key shown.file}<Editor text={shown.text} diagnostics={[]} readonly label="The program's text" />{/key}
    {/each}
  {/await}
</section>
