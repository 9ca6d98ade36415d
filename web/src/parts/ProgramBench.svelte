<script lang="ts">
  // One program of the folder, drawn, written and run as a learner's is.
  import { PaneGroup } from 'paneforge'
  import { onDestroy, untrack } from 'svelte'
  import { Bench } from '../state/bench.svelte'
  import { Drawing } from '../state/drawing.svelte'
  import type { FolderProgram } from '../state/program.svelte'
  import type { Workshop } from '../state/workshop.svelte'
  import Bay from './Bay.svelte'
  import BenchControls from './BenchControls.svelte'
  import BenchPane from './BenchPane.svelte'
  import Diagnostics from './Diagnostics.svelte'
  import Divider from './Divider.svelte'
  import PanelPane from './PanelPane.svelte'
  import PanelViews from './PanelViews.svelte'
  import ProgramPane from './ProgramPane.svelte'

  let { workshop, make }: { workshop: Workshop; /** Gives the program, once. */ make: () => FolderProgram } = $props()
  // svelte-ignore state_referenced_locally
  const opened = workshop.open()
  // svelte-ignore state_referenced_locally
  const program = make()
  // svelte-ignore state_referenced_locally
  const bench = new Bench(program.exercise, workshop.core, opened)
  // svelte-ignore state_referenced_locally
  const drawing = new Drawing(program, workshop.core)
  onDestroy(() => {
    bench.end()
    program.end()
  })
  let begun = -1
  $effect(() => {
    const { text, opened: turn } = program
    if (!bench.ready) return
    if (turn !== begun) {
      begun = turn
      bench.loaded = false
      void bench.start(program.file, text)
      return
    }
    bench.follow(program.file, text)
  })
  $effect(() => {
    const { text } = program
    untrack(() => void drawing.follow(text))
  })
  $effect(() => {
    void workshop.files
    untrack(() => program.follow())
  })
  let pane = $state<ProgramPane>()
  let wired = $state(localStorage.getItem('celandine.panel') === 'wiring')
  let high = $state(600)
  /** What the judgement says of this program, besides what the checker does. */
  const untested = $derived(
    workshop.wrong(program.file).filter((p) => !diagnostics.some((d) => d.message === p.message && d.line === p.line)),
  )
  const diagnostics = $derived(program.checked?.diagnostics ?? [])
</script>

<div class="flex min-h-0 flex-col">
  <PaneGroup direction="horizontal" autoSaveId="celandine.programs" class="min-h-0 grow">
    <Bay name="Program and bench" size={76} order={1} least={40}>
      <div class="flex min-h-[30rem] grow flex-col md:min-h-0" bind:clientHeight={high}>
        <PaneGroup direction="vertical" autoSaveId="celandine.programs.right" class="min-h-0 grow">
          <Bay name="Program" size={66} order={1} least={25}
            ><ProgramPane bind:this={pane} draft={program} {drawing} {bench} /></Bay
          >
          <Divider label="Between program and bench" />
          <Bay name="Bench" size={34} order={2} folds {high}>
            {#snippet head()}<BenchControls {bench} draft={program} />{/snippet}
            <BenchPane {bench} draft={program} {drawing} />
          </Bay>
        </PaneGroup>
      </div>
    </Bay>
    <Divider upright label="Between program and panel" />
    <Bay name="Panel" size={24} order={2} least={14}>
      {#snippet head()}<PanelViews bind:wired />{/snippet}
      <PanelPane {bench} {wired} />
    </Bay>
  </PaneGroup>
  <div class="max-h-32 shrink-0 overflow-y-auto border-t border-base-300 bg-base-200 px-4 py-1.5 text-sm">
    <p role="status" class="font-medium" data-summary={program.checked?.summary}>{program.checked?.summary ?? ''}</p>
    {#if diagnostics.length}<Diagnostics list={diagnostics} go={(d) => pane?.go(d.line, d.column)} />{/if}
    {#each untested as p, n (n)}
      <button class="block text-left hover:underline" onclick={() => pane?.go(p.line, p.column)}
        >line {p.line} · {p.message} {p.hint}</button
      >
    {/each}
    {#each program.checked?.missing ?? [] as m (m)}<p>A graded name is missing: {m}.</p>{/each}
  </div>
</div>
