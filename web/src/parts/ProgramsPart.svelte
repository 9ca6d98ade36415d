<script lang="ts">
  // The programs that come with the exercise: which there are, and one of them on the workbench's drawing, text and bench.
  import { FolderProgram } from '../state/program.svelte'
  import { languageOf, programming } from '../state/written.svelte'
  import type { Workshop } from '../state/workshop.svelte'
  import ProgramBench from './ProgramBench.svelte'
  import ProgramList from './ProgramList.svelte'

  let { workshop: w }: { workshop: Workshop } = $props()
  const programs = $derived(Object.keys(w.files.texts).filter((f) => programming.includes(languageOf(f))))
  let chosen = $state('')
  const file = $derived(
    programs.includes(chosen) ? chosen : (programs.find((f) => f.startsWith('solution.')) ?? programs[0] ?? ''),
  )
  /** Another panel, or a state that came by Undo, begins the bench anew. */
  const wired = $derived(
    JSON.stringify([w.exercise!.period, w.exercise!.inputs, w.exercise!.outputs, w.exercise!.graded]),
  )
</script>

<div
  class="grid min-h-0 grow grid-cols-[minmax(0,1fr)] overflow-y-auto md:grid-cols-[13rem_minmax(0,1fr)] md:overflow-hidden"
>
  <ProgramList workshop={w} {file} choose={(f) => (chosen = f)} />
  {#if file}
    {#key file + wired + w.opened}<ProgramBench workshop={w} make={() => new FolderProgram(w, file)} />{/key}
  {:else}
    <p class="p-6">Write the solution first, in ladder, blocks or structured text: it makes the expected traces.</p>
  {/if}
</div>
