<script lang="ts">
  // One exercise on one screen: the task, the panel, the program and the bench, each in a pane that can be made larger or folded
  // away; on a narrow screen one at a time. What is wrong and what is saved stand beneath, always.
  import { PaneGroup } from 'paneforge'
  import { MediaQuery } from 'svelte/reactivity'
  import { onDestroy, tick, untrack, type Snippet } from 'svelte'
  import type { Diagnostic } from '../api'
  import type { Core, Opened } from '../core/core'
  import { Bench } from '../state/bench.svelte'
  import type { Draft } from '../state/draft.svelte'
  import type { Drawing } from '../state/drawing.svelte'
  import { taken } from '../state/rehearsal.svelte'
  import { session } from '../state/session.svelte'
  import { api } from '../api'
  import Bay from './Bay.svelte'
  import BenchControls from './BenchControls.svelte'
  import BenchPane from './BenchPane.svelte'
  import Divider from './Divider.svelte'
  import Elsewhere from './Elsewhere.svelte'
  import ExerciseHead from './ExerciseHead.svelte'
  import FirstSteps from './FirstSteps.svelte'
  import HandInBar from './HandInBar.svelte'
  import KeyPane from './KeyPane.svelte'
  import PanelPane from './PanelPane.svelte'
  import PanelViews from './PanelViews.svelte'
  import ProgramPane from './ProgramPane.svelte'
  import TaskPane from './TaskPane.svelte'

  let {
    draft,
    drawing,
    core,
    opened,
    unloaded,
    restarts,
    terms,
  }: {
    draft: Draft
    drawing: Drawing
    core: Core
    opened: Promise<Opened>
    /** The core could not be loaded. */
    unloaded: boolean
    /** How often the core was started again. */
    restarts: number
    /** What holds of the exercise in this class: until when, how often. */
    terms: Snippet
  } = $props()
  const e = $derived(draft.exercise)
  // svelte-ignore state_referenced_locally
  const bench = new Bench(draft.exercise, core, opened)
  onDestroy(() => bench.end())

  // A text put in from outside begins anew; one being written follows, a moment after the last key.
  let begun = ''
  $effect(() => {
    const { text, file } = draft
    if (!bench.ready) return
    const now = `${draft.opened} ${restarts}`
    if (now !== begun) {
      begun = now
      bench.loaded = false
      const scenario = taken.now?.exercise === e.name ? taken.now : null
      void (scenario ? bench.play(file, text, scenario) : bench.start(file, text))
      return
    }
    bench.follow(file, text)
  })
  $effect(() => {
    const text = draft.core ? draft.text : null
    if (text !== null) untrack(() => void drawing.follow(text))
  })

  /** What an instructor sees of the exercise: the program, as a learner does, or what learners do not see. */
  let sees = $state<'program' | 'solution' | 'scenarios'>('program')
  let program = $state<ProgramPane>()
  let wired = $state(localStorage.getItem('celandine.panel') === 'wiring')
  let leftHigh = $state(600)
  let rightHigh = $state(600)
  const narrow = new MediaQuery('screen and (max-width: 899px)')
  const places = ['Task', 'Panel', 'Program', 'Bench'] as const
  // svelte-ignore state_referenced_locally
  let place = $state<(typeof places)[number]>(taken.now?.exercise === e.name ? 'Bench' : 'Task')

  // Who has handed in nothing yet is shown the way once.
  const knows = `celandine.${session.person?.login}.knows`
  let guided = $state(false)
  if (session.person?.role === 'learner' && !localStorage.getItem(knows)) {
    api.exercises().then(
      (list) => (guided = list.every((e) => !e.handins)),
      () => {},
    )
  }
  async function toProgram() {
    sees = 'program'
    place = 'Program'
    await tick()
    await program?.enter()
  }
  const go = (d: Diagnostic) => {
    sees = 'program'
    place = 'Program'
    void tick().then(() => program?.go(d.line, d.column))
  }
</script>

{#snippet centre()}
  {#if sees === 'program'}<ProgramPane bind:this={program} {draft} {drawing} {bench} />
  {:else}<KeyPane
      {draft}
      {core}
      what={sees}
      play={() => {
        sees = 'program'
        place = 'Bench'
        void bench.play(draft.file, draft.text, taken.now!)
      }}
    />{/if}
{/snippet}

<div class="flex min-h-0 grow flex-col">
  <ExerciseHead exercise={e} {terms}>
    <div role="tablist" aria-label="What to see of the exercise" class="tabs tabs-box tabs-xs ml-auto">
      {#each ['program', 'solution', 'scenarios'] as const as s (s)}
        <button
          role="tab"
          class="tab text-base-content capitalize"
          aria-selected={sees === s}
          class:tab-active={sees === s}
          onclick={() => {
            sees = s
            place = 'Program'
          }}>{s}</button
        >
      {/each}
    </div>
  </ExerciseHead>
  {#if guided && draft.core}
    <FirstSteps
      {draft}
      {drawing}
      {bench}
      draw={toProgram}
      toBench={() => {
        place = 'Panel'
        document.querySelector<HTMLElement>('[data-run]')?.focus()
      }}
      end={() => {
        guided = false
        localStorage.setItem(knows, '1')
      }}
    />
  {/if}
  {#if unloaded}<p class="alert alert-soft m-2" role="alert">
      The drawing and the bench could not be loaded. You can still write, check and hand in; load the page again to try
      once more.
    </p>{/if}
  {#if restarts}<p class="alert alert-soft m-2" role="alert">
      The drawing and the bench did not answer and were started again. Your text is kept; the bench begins at scan 0.
    </p>{/if}
  <Elsewhere {draft} />
  {#if narrow.current}
    <div role="tablist" aria-label="Parts of the workbench" class="tabs tabs-box tabs-sm m-2 shrink-0">
      {#each places as p (p)}
        <button
          role="tab"
          class="tab grow text-base-content"
          aria-selected={place === p}
          class:tab-active={place === p}
          onclick={() => (place = p)}>{p}</button
        >
      {/each}
    </div>
    <div class="flex min-h-0 grow flex-col">
      {#if place === 'Task'}<TaskPane exercise={e} {bench} />
      {:else if place === 'Panel'}
        <div class="flex flex-wrap gap-2 px-3 py-1"><PanelViews bind:wired /><BenchControls {bench} {draft} /></div>
        <PanelPane {bench} {wired} />
      {:else if place === 'Program'}{@render centre()}
      {:else}
        <div class="px-3 pt-1"><BenchControls {bench} {draft} /></div>
        <BenchPane {bench} {draft} {drawing} />{/if}
    </div>
  {:else}
    <PaneGroup direction="horizontal" autoSaveId="celandine.workbench" class="min-h-0 grow">
      <Bay name="Task and panel" size={28} order={1} least={16}>
        <div class="flex min-h-0 grow flex-col" bind:clientHeight={leftHigh}>
          <PaneGroup direction="vertical" autoSaveId="celandine.left" class="min-h-0 grow">
            <Bay name="Task" size={52} order={1} folds high={leftHigh}><TaskPane exercise={e} {bench} /></Bay>
            <Divider label="Between task and panel" />
            <Bay name="Panel" size={48} order={2} folds high={leftHigh}>
              {#snippet head()}<PanelViews bind:wired />{/snippet}
              <PanelPane {bench} {wired} />
            </Bay>
          </PaneGroup>
        </div>
      </Bay>
      <Divider upright label="Between task and program" />
      <Bay name="Program and bench" size={72} order={2} least={30}>
        <div class="flex min-h-0 grow flex-col" bind:clientHeight={rightHigh}>
          <PaneGroup direction="vertical" autoSaveId="celandine.right" class="min-h-0 grow">
            <Bay name="Program" size={64} order={1} least={20}>{@render centre()}</Bay>
            <Divider label="Between program and bench" />
            <Bay name="Bench" size={36} order={2} folds high={rightHigh}>
              {#snippet head()}<BenchControls {bench} {draft} />{/snippet}
              <BenchPane {bench} {draft} {drawing} />
            </Bay>
          </PaneGroup>
        </div>
      </Bay>
    </PaneGroup>
  {/if}
  <HandInBar {draft} {go} />
</div>
