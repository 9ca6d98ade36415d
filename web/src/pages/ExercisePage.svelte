<script lang="ts">
  import { onDestroy, tick, untrack } from 'svelte'
  import { api, type Diagnostic, type Exercise } from '../api'
  import type { Bench } from '../state/bench.svelte'
  import { Draft, type Kept, type Language } from '../state/draft.svelte'
  import { Core } from '../core/core'
  import { Drawing } from '../state/drawing.svelte'
  import { taken } from '../state/rehearsal.svelte'
  import { session } from '../state/session.svelte'
  import { spoken } from '../zone'
  import BenchView from '../parts/BenchView.svelte'
  import Diagnostics from '../parts/Diagnostics.svelte'
  import FirstSteps from '../parts/FirstSteps.svelte'
  import Editor from '../parts/Editor.svelte'
  import LadderEditor from '../parts/LadderEditor.svelte'
  import Loading from '../parts/Loading.svelte'
  import NameStrip from '../parts/NameStrip.svelte'
  import OwnHandins from '../parts/OwnHandins.svelte'
  import PanelTable from '../parts/PanelTable.svelte'
  import VariableTable from '../parts/VariableTable.svelte'

  let { params }: { params: { name: string } } = $props()
  // The core looks at the text as it is written; without it the service still does when asked.
  const core = new Core()
  onDestroy(() => {
    core.end()
    void opened.then((draft) => draft.end(), () => {})
  })
  let panel = $state<Promise<unknown>>(Promise.resolve())
  let begun = $state(0)
  /** The clock, for an exercise that is timed. */
  let now = $state(Date.now())
  const clock = setInterval(() => (now = Date.now()), 1000)
  onDestroy(() => clearInterval(clock))
  function remaining(ends: string) {
    const s = Math.max(0, Math.round((Date.parse(ends) - now) / 1000))
    return s ? `${Math.floor(s / 60)}:${String(s % 60).padStart(2, '0')} left` : 'over'
  }
  const opened = $derived(
    (void begun, api.exercise(params.name)).then((e) => {
      panel = core.open(e)
      // The same exercise in another class is another draft.
      const other = session.class && session.class.id !== session.classes[0]?.id ? '.' + session.class.id : ''
      const draft = new Draft(e, (session.person?.login ?? '') + other)
      void panel.then(() => (draft.core = core), () => ([view, unloaded] = ['text', true]))
      drawing = new Drawing(draft, core)
      return draft
    }),
  )
  const words: Record<Language, string> = { ladder: 'Ladder', st: 'Structured text' }
  const kept: Record<Kept, string> = { service: 'Saved', browser: 'Saving …', waiting: 'Saved in this browser; the service does not answer just now' }
  let editor = $state<Editor>()
  let strip = $state<NameStrip>()
  let bench = $state.raw<Bench | null>(null)
  let drawing = $state.raw<Drawing | null>(null)
  let unloaded = $state(false)
  let cursor = $state({ line: 1, column: 1 })

  type View = 'drawing' | 'text' | 'both' | 'variables'
  const views: [View, string][] = [['drawing', 'Drawing'], ['text', 'Text'], ['both', 'Both'], ['variables', 'Variables']]
  let view = $state<View>((localStorage.getItem('celandine.view') as View | null) ?? 'both')
  /** A program in structured text has nothing to draw. */
  const shows = (language: Language): View => (language === 'ladder' || view === 'variables' ? view : 'text')
  function choose(v: View) {
    view = v
    localStorage.setItem('celandine.view', v)
  }

  $effect(() => {
    const text = drawing?.draft.core ? drawing.draft.text : null
    if (text !== null) untrack(() => void drawing!.follow(text))
  })

  const draws = $derived(drawing && shows(drawing.draft.language) !== 'text' && shows(drawing.draft.language) !== 'variables')
  /** A name in a line of the text, as the bench has it. */
  function onBench(line: number, name: string) {
    const unit = drawing?.units.findLast((u) => u.line <= line)
    return unit?.kind === 'FUNCTION_BLOCK' ? bench!.inside(unit, name) : name
  }
  const live = {
    read: (names: { line: number; name: string }[]) => bench?.read([...new Set(names.map((n) => onBench(n.line, n.name)))]),
    value: (line: number, name: string) => (bench?.loaded && bench.text === drawing?.draft.text ? bench.value(onBench(line, name)) : undefined),
  }
  async function goTo(line: number, column: number) {
    if (view === 'drawing' || view === 'variables') choose('both')
    await tick()
    editor?.go(line, column)
  }
  // svelte-ignore state_referenced_locally
  let side = $state<'task' | 'bench'>(taken.now?.exercise === params.name ? 'bench' : 'task')

  // Who has handed in nothing yet is shown the way once.
  const knows = `celandine.${session.person?.login}.knows`
  let guided = $state(false)
  if (session.person?.role === 'learner' && !localStorage.getItem(knows)) {
    api.exercises().then((list) => (guided = list.every((e) => !e.handins)), () => {})
  }
  async function draw() {
    if (view === 'text' || view === 'variables') choose('both')
    await tick()
    document.querySelector<HTMLElement>('.ladder, .cm-content')?.focus()
  }

  const go = (d: Diagnostic) => void goTo(d.line, d.column)
  const shown = (e: Exercise) => e.scenarios.filter((s) => s.shown).length

  async function handIn(draft: Draft) {
    await draft.handIn()
    if (draft.graded) location.hash = '#/handin/' + draft.graded
  }
</script>

{#snippet terms(e: Exercise)}
  {@const left = e.attempts ? e.attempts - e.handins : null}
  {#if e.due || left !== null || e.ends || e.refused}
    <p class="mb-4 flex flex-wrap gap-x-4 text-sm" class:alert={!!e.refused} class:alert-soft={!!e.refused}>
      {#if e.refused && !session.teaches}<span>{e.refused}</span>{/if}
      {#if e.due}<span>Due {spoken(e.due, session.class?.timeZone)}</span>{/if}
      {#if left !== null}<span>{left} {left === 1 ? 'hand-in' : 'hand-ins'} left</span>{/if}
      {#if e.ends}<span>Your time ends at {spoken(e.ends, session.class?.timeZone)}: <b class="tabular-nums">{remaining(e.ends)}</b></span>{/if}
    </p>
  {/if}
{/snippet}

{#await opened catch error}
  {#if error.code === 'not-started'}
    <div class="mx-auto mt-10 max-w-md rounded-box border border-base-300 p-6">
      <h1 class="mb-2 text-xl font-semibold">A timed exercise</h1>
      <p class="mb-4">{error.message}</p>
      <button class="btn btn-primary" onclick={async () => { await api.start(params.name); begun++ }}>Start</button>
    </div>
  {/if}
{/await}
<Loading what={opened.catch((e) => { if (e.code === 'not-started') return new Promise<never>(() => {}); throw e })}>
  {#snippet children(draft)}
    {@const e = draft.exercise}
    <p class="mb-1 text-sm"><a class="link" href="#/">Exercises</a></p>
    <div class="mb-4 flex flex-wrap items-baseline gap-x-4">
      <h1 class="text-2xl font-semibold">{e.title}</h1>
      <span class="opacity-80">{e.topic} · {e.points} points · a scan every {e.period}</span>
    </div>
    {@render terms(e)}
    {#if guided && drawing && draft.core}
      <FirstSteps {draft} {drawing} {bench} {draw} toBench={() => (side = 'bench')} end={() => { guided = false; localStorage.setItem(knows, '1') }} />
    {/if}
    <div class="grid grid-cols-[minmax(0,1fr)] gap-6 lg:grid-cols-[minmax(0,5fr)_minmax(0,6fr)]">
      <div class="flex min-w-0 flex-col gap-4">
      <div role="tablist" aria-label="Task or bench" class="tabs tabs-box self-start">
        <button role="tab" class="tab text-base-content" aria-selected={side === 'task'} class:tab-active={side === 'task'} onclick={() => (side = 'task')}>Task</button>
        <button role="tab" class="tab text-base-content" aria-selected={side === 'bench'} class:tab-active={side === 'bench'} onclick={() => (side = 'bench')}>Bench</button>
      </div>
      {#if side === 'bench'}
        <BenchView {draft} {core} opened={panel} made={(b) => (bench = b)} draws={!draws} />
      {:else}
      <section aria-label="The task" class="flex flex-col gap-5">
        <!-- The service renders and sanitizes the brief. -->
        <div class="brief">{@html e.brief}</div>
        <div>
          <h2 class="mb-2 font-semibold">Panel</h2>
          <PanelTable exercise={e} />
        </div>
        <p class="text-sm opacity-80">
          Graded: <span class="font-mono">{e.graded.map((g) => g.signal).join(', ')}</span> in {e.scenarios.length} scenarios, {shown(e)} of them shown after a hand-in.
          {#if e.told}Graded {e.told}.{/if}
        </p>
        <OwnHandins exercise={e.name} />
      </section>
      {/if}
      </div>
      <section aria-label="Your program" class="flex flex-col gap-3">
        <div class="flex flex-wrap items-center gap-2">
          <div role="tablist" aria-label="Language" class="tabs tabs-box">
            {#each e.languages as language (language)}
              <button role="tab" class="tab text-base-content" aria-selected={draft.language === language} class:tab-active={draft.language === language} onclick={() => draft.choose(language as Language)}>{words[language as Language]}</button>
            {/each}
          </div>
          {#if draft.core}
            <div role="tablist" aria-label="How to look at it" class="tabs tabs-box">
              {#each views.filter(([v]) => draft.language === 'ladder' || v === 'text' || v === 'variables') as [v, name] (v)}
                <button role="tab" class="tab text-base-content" aria-selected={shows(draft.language) === v} class:tab-active={shows(draft.language) === v} onclick={() => choose(v)}>{name}</button>
              {/each}
            </div>
            <button class="btn btn-ghost btn-sm ml-auto" onclick={() => draft.format()}>Format</button>
          {/if}
          <button class="btn btn-ghost btn-sm" class:ml-auto={!draft.core} title="Begin again with the starter; Undo brings back what is written" onclick={() => draft.startOver()}>Start over</button>
        </div>
        {#if draft.core && drawing && (shows(draft.language) === 'drawing' || shows(draft.language) === 'both')}
          {#key draft.opened}<LadderEditor {drawing} points={[...e.inputs, ...e.outputs]} {bench} height={shows(draft.language) === 'both' ? 'h-72' : 'h-112'} />{/key}
        {/if}
        {#if draft.core && drawing && shows(draft.language) === 'variables'}<VariableTable {drawing} go={goTo} />{/if}
        {#if !draft.core || shows(draft.language) === 'text' || shows(draft.language) === 'both'}
          <!-- svelte-ignore a11y_no_static_element_interactions -->
          <div class={shows(draft.language) === 'both' ? 'h-64' : 'h-88'} onkeydown={(e) => strip?.key(e)}>
            {#key draft.opened}
              <Editor bind:this={editor} text={draft.text} diagnostics={draft.checked?.diagnostics ?? []} change={(t) => draft.write(t, true)} undo={() => draft.undo()} redo={() => draft.redo()}
                points={[...e.inputs, ...e.outputs]} value={(name) => bench?.value(name)} {live} beat={bench?.view} at={(line, column) => (cursor = { line, column })} label="Program text" />
            {/key}
          </div>
          {#if draft.core && drawing}<NameStrip bind:this={strip} {drawing} at={cursor} go={goTo} />{/if}
        {/if}
        <div class="flex items-center gap-3">
          <button class="btn" disabled={!!draft.progress} onclick={() => draft.check()}>Check</button>
          <button class="btn btn-primary" disabled={!!draft.progress} onclick={() => handIn(draft)}>Hand in</button>
          <p role="status" class="flex items-center gap-2 text-sm">
            {#if draft.progress}
              <span class="loading loading-sm loading-dots" aria-hidden="true"></span>{draft.progress}
            {:else if draft.checked}
              <span class="font-medium">{draft.checked.summary}</span>
            {/if}
          </p>
          <p class="ml-auto text-sm opacity-80" data-kept={draft.kept}>{kept[draft.kept]}</p>
        </div>
        {#if unloaded}<p class="alert alert-soft" role="alert">The drawing and the bench could not be loaded. You can still write, check and hand in; load the page again to try once more.</p>{/if}
        {#if draft.elsewhere !== null}
          <p class="alert alert-soft" role="alert">
            <span>This exercise is open in {draft.elsewhere.where}, where the text has been changed.</span>
            <button class="btn btn-sm" onclick={() => draft.settle(true)}>Take that text</button>
            <button class="btn btn-sm" onclick={() => draft.settle(false)}>Keep this one</button>
          </p>
        {/if}
        {#if draft.problem}<p class="alert alert-soft" role="alert">{draft.problem}</p>{/if}
        {#if draft.checked}
          <Diagnostics list={draft.checked.diagnostics} {go} />
          {#each draft.checked.missing as m (m)}
            <p class="rounded-field bg-base-200 px-3 py-2 text-sm">A graded name is missing: {m}. It earns nothing like this.</p>
          {/each}
        {/if}
      </section>
    </div>
  {/snippet}
</Loading>
