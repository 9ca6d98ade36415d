<script lang="ts">
  // The program: drawn, written, both side by side, or its variables as a table.
  import { PaneGroup } from 'paneforge'
  import { tick } from 'svelte'
  import type { Bench } from '../state/bench.svelte'
  import { words, type Language, type Written } from '../state/written.svelte'
  import type { Drawing } from '../state/drawing.svelte'
  import Bay from './Bay.svelte'
  import BlocksEditor from './BlocksEditor.svelte'
  import Divider from './Divider.svelte'
  import Editor from './Editor.svelte'
  import FileMenu from './FileMenu.svelte'
  import LadderEditor from './LadderEditor.svelte'
  import NameStrip from './NameStrip.svelte'
  import SameIn from './SameIn.svelte'
  import VariableTable from './VariableTable.svelte'

  let { draft, drawing, bench }: { draft: Written; drawing: Drawing | null; bench: Bench | null } = $props()
  const e = $derived(draft.exercise)
  type View = 'drawing' | 'text' | 'both' | 'same' | 'variables'
  const views: [View, string][] = [
    ['drawing', 'Drawing'],
    ['text', 'Text'],
    ['both', 'Both'],
    ['same', 'The same in …'],
    ['variables', 'Variables'],
  ]
  let view = $state<View>((localStorage.getItem('celandine.view') as View | null) ?? 'both')
  let wide = $state(900)
  let editor = $state<Editor>()
  let strip = $state<NameStrip>()
  let cursor = $state({ line: 1, column: 1 })
  const offered = $derived(views.filter(([v]) => draft.language !== 'st' || (v !== 'drawing' && v !== 'both')))
  /** Structured text has nothing to draw, and without the core there is nothing to draw with. */
  const shown = $derived<View>(
    !draft.core || !drawing || (view === 'same' && !bench) ? 'text' : offered.some(([v]) => v === view) ? view : 'text',
  )
  function choose(v: View) {
    view = v
    localStorage.setItem('celandine.view', v)
  }

  /** Shows a place in the text. */
  export async function go(line: number, column: number) {
    if (view === 'drawing' || view === 'variables' || view === 'same') choose('both')
    await tick()
    editor?.go(line, column)
  }
  /** To where one draws, or writes. */
  export async function enter() {
    if (view === 'text' || view === 'variables') choose('both')
    await tick()
    document.querySelector<HTMLElement>('.ladder, .blocks, .cm-content')?.focus()
  }

  /** A name in a line of the text, as the bench has it. */
  function onBench(line: number, name: string) {
    const unit = drawing?.units.findLast((u) => u.line <= line)
    return unit?.kind === 'FUNCTION_BLOCK' ? bench!.inside(unit, name) : name
  }
  const live = {
    read: (names: { line: number; name: string }[]) =>
      bench?.read([...new Set(names.map((n) => onBench(n.line, n.name)))]),
    value: (line: number, name: string) =>
      bench?.loaded && bench.text === draft.text ? bench.value(onBench(line, name)) : undefined,
  }
</script>

{#snippet drawn()}
  {#key draft.opened}
    {#if draft.language === 'fbd'}<BlocksEditor drawing={drawing!} points={[...e.inputs, ...e.outputs]} {bench} {go} />
    {:else}<LadderEditor drawing={drawing!} points={[...e.inputs, ...e.outputs]} {bench} {go} />{/if}
  {/key}
{/snippet}
{#snippet text()}
  <!-- svelte-ignore a11y_no_static_element_interactions -->
  <div class="min-h-24 grow" onkeydown={(e) => strip?.key(e)}>
    {#key draft.opened}
      <Editor
        bind:this={editor}
        text={draft.text}
        diagnostics={draft.checked?.diagnostics ?? []}
        change={(t) => draft.write(t, true)}
        undo={() => draft.undo()}
        redo={() => draft.redo()}
        fixes={draft.checked?.fixes}
        writer={draft.core ? { core: draft.core, file: draft.file } : undefined}
        value={(name) => bench?.value(name)}
        {live}
        beat={bench?.view}
        at={(line, column) => (cursor = { line, column })}
        label="Program text"
      />
    {/key}
  </div>
  {#if draft.core && drawing}<NameStrip bind:this={strip} {drawing} at={cursor} {go} />{/if}
{/snippet}

<section aria-label="Your program" class="flex min-h-0 grow flex-col gap-1.5 px-3 pt-1.5 pb-2" bind:clientWidth={wide}>
  <div class="flex shrink-0 flex-wrap items-center gap-2">
    <div
      role="tablist"
      aria-label="Language"
      class="tabs tabs-box tabs-sm"
      hidden={e.languages.length < 2 && draft.begins === null}
    >
      {#each e.languages as language (language)}
        <button
          role="tab"
          class="tab text-base-content"
          aria-selected={draft.language === language}
          class:tab-active={draft.language === language}
          onclick={() => draft.choose(language as Language)}>{words[language as Language]}</button
        >
      {/each}
    </div>
    {#if draft.core}
      <div role="tablist" aria-label="How to look at it" class="tabs tabs-box tabs-sm">
        {#each offered as [v, name] (v)}
          <button
            role="tab"
            class="tab text-base-content"
            aria-selected={shown === v}
            class:tab-active={shown === v}
            onclick={() => choose(v)}>{name}</button
          >
        {/each}
      </div>
      <div class="ml-auto"><FileMenu {draft} /></div>
      <button class="btn btn-ghost btn-xs" onclick={() => draft.format()}>Format</button>
    {/if}
    {#if draft.begins !== null}
      <button
        class="btn btn-ghost btn-xs"
        class:ml-auto={!draft.core}
        title="Begin again with the starter; Undo brings back what is written"
        onclick={() => draft.startOver()}>Start over</button
      >
    {/if}
  </div>
  {#if shown === 'variables'}
    <div class="min-h-0 grow overflow-y-auto"><VariableTable drawing={drawing!} {go} /></div>
  {:else if shown === 'drawing'}{@render drawn()}
  {:else}
    <!-- The text stays the same field when the drawing comes beside it. -->
    {@const upright = wide > 720}
    {#key upright}
      <PaneGroup
        direction={upright ? 'horizontal' : 'vertical'}
        autoSaveId={shown === 'both' || shown === 'same' ? `celandine.${shown}.${upright}` : null}
        class="min-h-0 grow"
      >
        {#if shown === 'both' || (shown === 'same' && draft.language !== 'st')}
          <Bay name="Drawing" size={shown === 'same' ? 50 : 62} order={1} least={20}>{@render drawn()}</Bay>
          <Divider {upright} label={shown === 'same' ? 'Between the languages' : 'Between drawing and text'} />
        {/if}
        {#if shown !== 'same' || draft.language === 'st'}
          <Bay name="Text" size={shown === 'both' ? 38 : shown === 'same' ? 50 : 100} order={2} least={20}>
            <div
              class="flex min-h-0 grow flex-col gap-1"
              class:pl-2={upright && shown === 'both'}
              class:pt-2={!upright && shown === 'both'}
            >
              {@render text()}
            </div>
          </Bay>
        {/if}
        {#if shown === 'same'}
          {#if draft.language === 'st'}<Divider {upright} label="Between the languages" />{/if}
          <Bay name="The same" size={50} order={3} least={20}><SameIn {draft} bench={bench!} /></Bay>
        {/if}
      </PaneGroup>
    {/key}
  {/if}
</section>
