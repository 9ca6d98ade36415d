<script lang="ts">
  // What an instructor sees of an exercise besides: its solutions, and what every scenario does and expects.
  import { api, type Key } from '../api'
  import type { Core } from '../core/core'
  import { words, type Draft } from '../state/draft.svelte'
  import { taken } from '../state/rehearsal.svelte'
  import DrawnProgram from './DrawnProgram.svelte'
  import Editor from './Editor.svelte'
  import Loading from './Loading.svelte'
  import TimingDiagram from './TimingDiagram.svelte'

  let {
    draft,
    core,
    what,
    play,
  }: {
    draft: Draft
    core: Core
    what: 'solution' | 'scenarios'
    /** Plays what was taken on the bench; none where there is no bench. */
    play?: () => void
  } = $props()
  const key = $derived(api.key(draft.exercise.name))
  let language = $state('')
  let name = $state('')
  const shown = (n: string) => draft.exercise.scenarios.find((s) => s.name === n)?.shown

  function rehearse(k: Key, scenario: string) {
    taken.now = {
      exercise: draft.exercise.name,
      evidence: k.evidence.find((e) => e.scenario === scenario)!,
      until: undefined,
    }
    play?.()
  }
</script>

<section aria-label="What learners do not see" class="flex min-h-0 grow flex-col gap-2 overflow-y-auto px-3 py-2">
  <Loading what={key}>
    {#snippet children(k)}
      {#if what === 'solution'}
        {@const s = k.solutions.find((s) => s.language === language) ?? k.solutions[0]}
        <div class="flex items-center gap-2">
          <div role="tablist" aria-label="Solution in" class="tabs tabs-box tabs-sm">
            {#each k.solutions as one (one.file)}
              <button
                role="tab"
                class="tab text-base-content"
                aria-selected={one === s}
                class:tab-active={one === s}
                onclick={() => (language = one.language)}>{words[one.language]}</button
              >
            {/each}
          </div>
          <span class="text-sm opacity-80">Revision {k.revision}, {s.file}</span>
          <button
            class="btn btn-sm ml-auto"
            title="Undo brings back what is written"
            onclick={() => {
              if (s.language !== draft.language) draft.choose(s.language)
              draft.write(s.text)
            }}>Write it into the program</button
          >
        </div>
        {#await core.draw(s) then { rungs, networks }}<DrawnProgram {rungs} {networks} of="the solution" />{/await}
        <div class="h-64 shrink-0">
          {#key s.file}<Editor text={s.text} diagnostics={[]} readonly label="The solution" />{/key}
        </div>
      {:else}
        {@const scenario = k.result.scenarios.find((s) => s.name === name) ?? k.result.scenarios[0]}
        {@const evidence = k.evidence.find((e) => e.scenario === scenario?.name)}
        <div class="grid grid-cols-[minmax(0,1fr)] gap-4 lg:grid-cols-[15rem_minmax(0,1fr)]">
          <ul class="flex flex-col gap-0.5" aria-label="Scenarios">
            {#each k.result.scenarios as s (s.name)}
              <li>
                <button
                  class="flex w-full flex-col rounded-field border-l-4 px-3 py-1.5 text-left text-sm hover:bg-base-200 {s ===
                  scenario
                    ? 'border-primary bg-base-200'
                    : 'border-transparent'}"
                  aria-current={s === scenario}
                  onclick={() => (name = s.name)}
                >
                  <span class="font-medium">{s.name}</span>
                  <span class="opacity-80"
                    >{s.points} points, {shown(s.name) ? 'shown after a hand-in' : 'hidden'}{s.still
                      ? ', nothing may happen'
                      : ''}</span
                  >
                </button>
              </li>
            {/each}
          </ul>
          {#if scenario && evidence}
            {#key scenario.name}
              <div class="flex min-w-0 flex-col gap-2" role="group" aria-label={scenario.name}>
                <p class="flex flex-wrap items-center gap-2 text-sm">
                  <span
                    >Graded: {#each scenario.signals as s, n (n)}{n ? ', ' : ''}<span class="font-mono">{s.signal}</span
                      >{s.still ? ' (still)' : ''}{/each}</span
                  >
                  {#if play}<button class="btn btn-sm ml-auto" onclick={() => rehearse(k, scenario.name)}
                      >Play it on the bench</button
                    >{/if}
                </p>
                <TimingDiagram {evidence} mark={scenario} />
              </div>
            {/key}
          {/if}
        </div>
      {/if}
    {/snippet}
  </Loading>
</section>
