<script lang="ts">
  // What a hand-in earned: messages, what was taken off, and each scenario with its reasons and traces.
  import type { Handin, ScenarioMark } from '../api'
  import type { Drawn } from '../core/core'
  import Diagnostics from './Diagnostics.svelte'
  import Mark from './Mark.svelte'
  import ScenarioDetail from './ScenarioDetail.svelte'

  let {
    handin: h,
    drawn,
    play,
  }: {
    handin: Handin
    drawn: Drawn
    /** Whose hand-in it is may play a scenario on the bench. */
    play: boolean
  } = $props()
  const result = $derived(h.result!)
  const ran = $derived(!result.diagnostics.some((d) => d.severity === 'error'))
  const takenOff = $derived(result.findings.filter((f) => f.deduct > 0))

  let chosen = $state<string | null>(null)
  const lost = (s: ScenarioMark) => s.earned < s.points
  /** The scenario to look at: the one chosen, else the first shown that lost marks. */
  const scenario = $derived.by(() => {
    const all = result.scenarios
    return (
      all.find((s) => s.name === chosen) ??
      all.find((s) => lost(s) && !s.hidden) ??
      all.find((s) => !s.hidden) ??
      all[0]
    )
  })
</script>

{#if result.diagnostics.length}
  <section class="mb-5" aria-label="Messages">
    {#if !ran}<p class="mb-1">
        {h.programs
          ? 'What was drawn cannot be read, so nothing was compared.'
          : 'The program has errors, so no scenario could run.'}
      </p>{/if}
    <Diagnostics list={result.diagnostics} />
  </section>
{/if}
{#if takenOff.length}
  <section class="mb-5" aria-label="Points taken off">
    <ul class="flex flex-col gap-1">
      {#each takenOff as f (f.rule)}
        <li class="border-l-4 border-warning pl-3">
          <span class="font-semibold tabular-nums">−{f.deduct}</span>
          {f.say}
        </li>
      {/each}
    </ul>
  </section>
{/if}
<nav aria-label="Scenarios" class="mb-4">
  <ul class="grid grid-cols-[repeat(auto-fill,minmax(10rem,1fr))] gap-1">
    {#each result.scenarios as s (s.name)}
      <li>
        <button
          class="flex h-full w-full flex-col rounded-field border-l-4 px-3 py-1.5 text-left hover:bg-base-200 {s ===
          scenario
            ? 'border-primary bg-base-200'
            : 'border-base-300'}"
          aria-current={s === scenario}
          onclick={() => (chosen = s.name)}
        >
          <span class="font-medium">{s.name}</span>
          <span class="mt-auto text-sm"><Mark earned={s.earned} points={s.points} /></span>
        </button>
      </li>
    {/each}
  </ul>
</nav>
<ul class="mb-3 hidden text-sm print:block" aria-hidden="true">
  {#each result.scenarios as s (s.name)}
    <li class="flex gap-4"><span class="w-80">{s.name}</span><Mark earned={s.earned} points={s.points} /></li>
  {/each}
</ul>
{#if scenario}
  {#key scenario.name}
    <ScenarioDetail
      mark={scenario}
      evidence={h.evidence?.find((e) => e.scenario === scenario.name)}
      {drawn}
      programs={h.programs}
      exercise={play || h.programs ? h.exercise : ''}
      {ran}
    />
  {/key}
{/if}
