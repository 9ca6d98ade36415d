<script lang="ts">
  // A starter made of the solution: the rungs that learners are to write themselves are left out.
  import type { RungText } from '../core/calls'
  import type { Workshop } from '../state/workshop.svelte'
  import { programming, words, type Language } from '../state/written.svelte'

  let { workshop: w, choose }: { workshop: Workshop; choose: (file: string) => void } = $props()
  let dialog = $state<HTMLDialogElement>()
  let language = $state<Language>('ladder')
  let rungs = $state.raw<RungText[]>([])
  let out = $state<boolean[]>([])
  const solved = $derived(programming.filter((l) => w.files.texts['solution.' + l] !== undefined))

  async function ask() {
    language = solved[0]
    await read()
    dialog?.showModal()
  }
  async function read() {
    const file = 'solution.' + language
    rungs = language !== 'st' ? await w.core.ask('rungs', { file, text: w.files.texts[file] }) : []
    out = rungs.map(() => true)
  }
  async function make() {
    const without = rungs.filter((_, n) => out[n])
    if (!(await w.change('starter', { language, without }))) return
    dialog?.close()
    choose('starter.' + language)
  }
</script>

{#if solved.length}<button class="btn self-start btn-xs" onclick={ask}>Starter from the solution</button>{/if}
<dialog bind:this={dialog} class="modal" aria-label="Starter from the solution">
  <div class="modal-box flex flex-col gap-3">
    <h2 class="text-lg font-semibold">Starter from the solution</h2>
    {#if solved.length > 1}
      <select class="select select-sm w-52" aria-label="Of the solution in" bind:value={language} onchange={read}
        >{#each solved as l (l)}<option value={l}>{words[l].toLowerCase()}</option>{/each}</select
      >
    {/if}
    {#if language !== 'st'}
      <p>Which {language === 'fbd' ? 'networks' : 'rungs'} are left to the learner? Declarations stay.</p>
      {#each rungs as r, n (r.unit + ':' + r.rung)}
        <label class="flex items-start gap-2 text-sm"
          ><input type="checkbox" class="checkbox mt-0.5 checkbox-sm" bind:checked={out[n]} /><span
            >{r.rung + 1} {r.title}<code class="block text-xs whitespace-pre-wrap opacity-80">{r.text}</code></span
          ></label
        >
      {/each}
    {:else}<p>The starter keeps the declarations; the statements are left to the learner.</p>{/if}
    <div class="flex gap-2">
      <button class="btn btn-primary btn-sm" onclick={make}>Make the starter</button>
      <form method="dialog"><button class="btn btn-ghost btn-sm">Not now</button></form>
    </div>
  </div>
</dialog>
