<script lang="ts">
  // One scenario: what it is called and worth, its diagram, and the script as a list, as a table, or as it is pressed.
  import ZoomIn from '@lucide/svelte/icons/zoom-in'
  import ZoomOut from '@lucide/svelte/icons/zoom-out'
  import type { Script } from '../state/script.svelte'
  import CellTable from './CellTable.svelte'
  import ExpectBox from './ExpectBox.svelte'
  import Recorder from './Recorder.svelte'
  import ScriptDiagram from './ScriptDiagram.svelte'
  import StepList from './StepList.svelte'
  import StretchBar from './StretchBar.svelte'
  import WrittenCell from './WrittenCell.svelte'

  let { script }: { script: Script } = $props()
  const w = $derived(script.workshop)
  const form = $derived(script.form)
  const views = ['Steps', 'Table', 'Record', 'Expected'] as const
  let view = $state<(typeof views)[number]>('Steps')
  $effect(() => script.fit())
  const open = $derived(w.wrong(script.at).filter((p) => !/\/(name|points|for)$/.test(p.at)))
</script>

{#snippet flag(key: string, value: string, words: string)}
  <label class="flex h-8 items-center gap-2"
    ><input
      type="checkbox"
      class="toggle toggle-sm"
      checked={value === 'true'}
      onchange={(e) => w.put(`${script.at}/${key}`, e.currentTarget.checked ? true : undefined)}
    />{words}</label
  >
{/snippet}

{#if form}
  <section
    aria-label="Scenario {form.name}"
    class="flex min-h-0 flex-col gap-2 px-4 py-3 *:shrink-0 md:overflow-y-auto"
  >
    <div class="flex flex-wrap items-end gap-x-3 gap-y-1 text-sm">
      <label class="flex min-w-56 grow flex-col"
        >What it shows <WrittenCell workshop={w} at="{script.at}/name" value={form.name} label="What it shows" /></label
      >
      <label class="flex w-20 flex-col"
        >Points <WrittenCell
          workshop={w}
          at="{script.at}/points"
          value={form.points}
          label="Points"
          kind="number"
          optional
          usual="1"
        /></label
      >
      <label class="flex w-24 flex-col"
        >Lasts <WrittenCell workshop={w} at="{script.at}/for" value={form.for} label="Lasts" /></label
      >
      {#if w.predicts}{@render flag('by_hand', form.byHand, 'a hand works it')}
      {:else}
        {@render flag('shown', form.shown, 'shown after a hand-in')}
        {#if form.shown === 'true'}{@render flag('predict', form.predict, 'predicted before the first run')}{/if}
      {/if}
    </div>
    {#if script.inputs}
      <div class="flex flex-wrap items-center gap-2 text-sm">
        <button class="btn btn-xs" onclick={() => script.view.zoom(0.5)}><ZoomIn size={14} /> Closer</button>
        <button class="btn btn-xs" onclick={() => script.view.zoom(2)}><ZoomOut size={14} /> Wider</button>
        <button class="btn btn-xs" onclick={() => script.view.whole()}>Whole</button>
        <span class="opacity-80">Drag an edge to move it; drag over a lane to choose a stretch.</span>
      </div>
      <ScriptDiagram {script} />
      <StretchBar {script} />
    {:else}<p class="text-sm">The script is drawn as soon as the scenario says how long it lasts.</p>{/if}
    {#if script.scene?.fault}<p role="alert" class="text-sm text-error">{script.scene.fault}</p>{/if}
    {#each open as p (p.at + p.message)}
      <p class="text-sm" class:text-error={p.error}>{p.message} {p.hint}</p>
    {/each}
    <div role="tablist" aria-label="The script as" class="tabs tabs-box tabs-sm self-start">
      {#each views as v (v)}
        <button
          role="tab"
          class="tab text-base-content"
          aria-selected={view === v}
          class:tab-active={view === v}
          onclick={() => (view = v)}>{v}</button
        >
      {/each}
    </div>
    {#if view === 'Steps'}<StepList {script} />
    {:else if view === 'Table'}<CellTable {script} />
    {:else if view === 'Record'}<Recorder {script} />
    {:else}<ExpectBox {script} />{/if}
  </section>
{/if}
