<script lang="ts">
  // The panel as it is wired so far, alive: with the solution behind it as soon as there is one that runs.
  import { onDestroy } from 'svelte'
  import type { Point } from '../api'
  import type { PanelPoint } from '../core/calls'
  import type { Workshop } from '../state/workshop.svelte'
  import { Rig } from '../state/rig.svelte'
  import PanelPane from './PanelPane.svelte'
  import PanelViews from './PanelViews.svelte'

  let { workshop: w }: { workshop: Workshop } = $props()
  // svelte-ignore state_referenced_locally
  const rig = new Rig(w)
  onDestroy(() => rig.end())
  let wired = $state(localStorage.getItem('celandine.panel') === 'wiring')
  $effect(() => rig.follow())
  let arranging = $state(false)
  const rowOf = (p: Point) => {
    const inputs = w.outline!.inputs.find((q) => q.name === p.name)
    const row = inputs ?? w.outline!.outputs.find((q) => q.name === p.name)!
    return `panel/${inputs ? 'inputs' : 'outputs'}/${row.row}/place`
  }
  const place = (p: Point, at: [number, number]) => void w.put(rowOf(p), at)
  /** A series stands in a row; every other device gets a place of its own. */
  const alone = (p: { row: number }, list: { row: number }[]) => list.filter((q) => q.row === p.row).length === 1
  async function arrange() {
    arranging = !arranging
    if (!arranging) return
    const o = w.outline!
    const loose = [
      ...o.outputs.filter((p) => alone(p, o.outputs)),
      ...o.inputs.filter((p) => alone(p, o.inputs)),
    ].filter((p) => !p.place)
    const edits = loose.map((p, n) => {
      const list = o.inputs.includes(p) ? 'inputs' : 'outputs'
      const value = [26 + 48 * (n % 2), Math.min(90, 16 + 32 * Math.floor(n / 2))]
      return { do: 'put' as const, at: `panel/${list}/${p.row}/place`, value }
    })
    if (edits.length) await w.change('edit', { edits })
  }
  async function inRows() {
    arranging = false
    const o = w.outline!
    const of = (list: PanelPoint[], name: string) =>
      list.filter((p) => p.place).map((p) => `panel/${name}/${p.row}/place`)
    const edits = [...of(o.inputs, 'inputs'), ...of(o.outputs, 'outputs')].map((at) => ({ do: 'remove' as const, at }))
    if (edits.length) await w.change('edit', { edits })
  }
  const pictures = $derived(Object.keys(w.files.pictures))
</script>

<div class="mb-2 flex items-center gap-2">
  <PanelViews bind:wired />
  {#if rig.bench?.loaded}
    <button class="btn btn-primary btn-xs" onclick={() => (rig.bench!.running ? rig.bench!.pause() : rig.bench!.run())}
      >{rig.bench.running ? 'Pause' : 'Run'}</button
    >
    <span class="text-sm opacity-80">{rig.runs ? 'with the solution' : 'without a program'}</span>
  {/if}
</div>
{#if rig.bench}{#key rig.bench}<PanelPane bench={rig.bench} {wired} place={arranging ? place : undefined} />{/key}{/if}
<div class="mt-2 flex flex-wrap items-center gap-2 text-sm">
  <button class="btn btn-xs" aria-pressed={arranging} onclick={arrange}
    >{arranging ? 'Done' : 'Arrange the devices'}</button
  >
  <button class="btn btn-ghost btn-xs" onclick={inRows}>In rows</button>
  <label class="flex items-center gap-1"
    >over <select
      class="select select-xs w-36"
      aria-label="Picture of the panel"
      value={w.outline?.picture ?? ''}
      onchange={(e) => w.put('panel/picture', e.currentTarget.value || undefined)}
      ><option value="">no picture</option>{#each pictures as p (p)}<option value={p}>{p.slice(9)}</option
        >{/each}</select
    ></label
  >
</div>
