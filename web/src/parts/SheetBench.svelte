<script lang="ts">
  // An exercise in which a trace is predicted: the task and the program beside a timing diagram for each scenario. Nothing runs here.
  import { PaneGroup } from 'paneforge'
  import type { Snippet } from 'svelte'
  import { MediaQuery } from 'svelte/reactivity'
  import type { Diagnostic } from '../api'
  import type { Core } from '../core/core'
  import type { Draft } from '../state/draft.svelte'
  import { Sheet } from '../state/sheet.svelte'
  import Bay from './Bay.svelte'
  import Divider from './Divider.svelte'
  import DrawnScenario from './DrawnScenario.svelte'
  import Elsewhere from './Elsewhere.svelte'
  import ExerciseHead from './ExerciseHead.svelte'
  import HandInBar from './HandInBar.svelte'
  import KeyPane from './KeyPane.svelte'
  import ShownProgram from './ShownProgram.svelte'
  import TaskPane from './TaskPane.svelte'

  let { draft, core, terms }: { draft: Draft; core: Core; terms: Snippet } = $props()
  const e = $derived(draft.exercise)
  // svelte-ignore state_referenced_locally
  const sheet = new Sheet(draft)
  let name = $state('')
  /** An instructor sees what happens in place of what is drawn. */
  let told = $state(false)
  const scenario = $derived(e.scenarios.find((s) => s.name === name) ?? e.scenarios[0])
  const wide = new MediaQuery('screen and (min-width: 900px)')
  const go = (d: Diagnostic) => (name = sheet.at(d.line)?.name ?? name)

  function key(event: KeyboardEvent) {
    if (!(event.ctrlKey || event.metaKey) || (event.target as Element).closest('input, textarea, [contenteditable]'))
      return
    const back = event.key === 'z' && !event.shiftKey
    if (!back && event.key !== 'y' && !(event.key === 'Z' && event.shiftKey)) return
    event.preventDefault()
    if (back) draft.undo()
    else draft.redo()
  }
</script>

<svelte:window onkeydown={key} />

{#snippet task()}<h2 class="sr-only">Task</h2>
  <TaskPane exercise={e} />{/snippet}
{#snippet program()}
  <div class="flex min-h-0 grow flex-col overflow-y-auto px-3 py-2"><ShownProgram programs={e.programs!} {core} /></div>
{/snippet}
{#snippet scenarios()}
  {#if told}<KeyPane {draft} {core} what="scenarios" />{:else}{@render drawing()}{/if}
{/snippet}
{#snippet drawing()}
  <section aria-label="What will happen" class="flex min-h-0 grow flex-col gap-2 overflow-y-auto px-3 py-2">
    <div role="tablist" aria-label="Scenarios" class="tabs tabs-box tabs-sm self-start">
      {#each e.scenarios as s (s.name)}
        <button
          role="tab"
          class="tab text-base-content"
          aria-selected={s === scenario}
          class:tab-active={s === scenario}
          onclick={() => (name = s.name)}
          >{s.name}
          <span class="ml-1 text-success" aria-label={sheet.said(s) ? 'said' : 'nothing is said yet'}
            >{sheet.said(s) ? '✓' : ''}</span
          ></button
        >
      {/each}
    </div>
    {#key scenario.name}<DrawnScenario {sheet} {scenario} />{/key}
    <div class="flex gap-1.5">
      <button class="btn btn-ghost btn-xs" onclick={() => draft.undo()}>Undo</button>
      <button class="btn btn-ghost btn-xs" onclick={() => draft.redo()}>Redo</button>
    </div>
  </section>
{/snippet}

<div class="flex min-h-0 grow flex-col">
  <ExerciseHead exercise={e} {terms}>
    <label class="ml-auto flex items-center gap-1.5 text-sm"
      ><input type="checkbox" class="checkbox checkbox-xs" bind:checked={told} /> What happens</label
    >
  </ExerciseHead>
  <Elsewhere {draft} />
  {#if wide.current}
    <PaneGroup direction="horizontal" autoSaveId="celandine.sheet" class="min-h-0 grow">
      <Bay name="Task" size={26} order={1} least={16}>{@render task()}</Bay>
      <Divider upright label="Between task and program" />
      <Bay name="Program and prediction" size={74} order={2} least={30}>
        <PaneGroup direction="vertical" autoSaveId="celandine.sheet.right" class="min-h-0 grow">
          <Bay name="Program" size={46} order={1} least={15}>{@render program()}</Bay>
          <Divider label="Between program and prediction" />
          <Bay name="What will happen" size={54} order={2} least={25}>{@render scenarios()}</Bay>
        </PaneGroup>
      </Bay>
    </PaneGroup>
  {:else}
    <div class="min-h-0 grow overflow-y-auto">
      {@render task()}
      {@render program()}
      {@render scenarios()}
    </div>
  {/if}
  <HandInBar {draft} {go} />
</div>
