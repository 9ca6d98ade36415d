<script lang="ts">
  // The exercise predicted as a learner would, without publishing it: what it earns is told in place of a hand-in.
  import type { Judgement } from '../core/calls'
  import { Attempt } from '../state/attempt.svelte'
  import { Sheet } from '../state/sheet.svelte'
  import type { Workshop } from '../state/workshop.svelte'
  import DrawnScenario from './DrawnScenario.svelte'

  let { workshop: w }: { workshop: Workshop } = $props()
  const exercise = $derived(w.asked)
  let text = $state('')
  const sheet = $derived(
    new Sheet({
      exercise,
      get text() {
        return text
      },
      write: (t: string) => (text = t),
    }),
  )
  let name = $state('')
  const scenario = $derived(exercise.scenarios.find((s) => s.name === name) ?? exercise.scenarios[0])
  let mark = $state.raw<Judgement['variants'][number] | null>(null)
  const attempt = new Attempt()
  const handIn = () =>
    attempt.do(async () => (mark = await w.core.ask('try', { files: w.named, file: 'mine.trace', text })))
</script>

<div class="flex flex-wrap items-center gap-2 text-sm">
  <button class="btn btn-primary btn-sm" disabled={attempt.busy} onclick={handIn}>What does it earn?</button>
  {#if mark}
    <p role="status">
      <b>{mark.earned} of {w.judgement?.points} points.</b>
      {mark.errors}
      {#each mark.scenes as m, n (n)}{#if !m.full}<span class="block"
            >{exercise.scenarios[n]?.name}: {m.earned}. {m.loss}</span
          >{/if}{/each}
    </p>
  {/if}
  {#if attempt.problem}<p role="alert" class="text-error">{attempt.problem}</p>{/if}
</div>
{#if scenario}
  <div class="flex flex-col gap-2 rounded-box border border-base-300 p-3">
    <div role="tablist" aria-label="Scenarios of the try" class="tabs tabs-box tabs-xs self-start">
      {#each exercise.scenarios as s (s.name)}
        <button
          role="tab"
          class="tab text-base-content"
          aria-selected={s === scenario}
          class:tab-active={s === scenario}
          onclick={() => (name = s.name)}>{s.name}</button
        >
      {/each}
    </div>
    {#key scenario.name}<DrawnScenario {sheet} {scenario} />{/key}
  </div>
{/if}
