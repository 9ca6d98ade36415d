<script lang="ts">
  // The exercise solved as a learner would, without publishing it: what it earns is told in place of a hand-in.
  import { OwnTry } from '../state/program.svelte'
  import { Attempt } from '../state/attempt.svelte'
  import type { Judgement } from '../core/calls'
  import type { Workshop } from '../state/workshop.svelte'
  import { words, type Language } from '../state/written.svelte'
  import ProgramBench from './ProgramBench.svelte'

  let { workshop: w }: { workshop: Workshop } = $props()
  const languages = $derived(w.exercise!.languages as Language[])
  let chosen = $state<Language | ''>('')
  const language = $derived(chosen && languages.includes(chosen) ? chosen : languages[0])
  let program: OwnTry | undefined
  let mark = $state.raw<Judgement['variants'][number] | null>(null)
  const attempt = new Attempt()
  const names = $derived(w.outline!.form.scenarios.map((s) => s.name))

  function make() {
    mark = null
    return (program = new OwnTry(w, language))
  }
  const handIn = () =>
    attempt.do(async () => {
      mark = await w.core.ask('try', { files: w.named, file: program!.file, text: program!.text })
    })
</script>

<div class="flex flex-wrap items-center gap-2 text-sm">
  {#if languages.length > 1}
    <div role="tablist" aria-label="Language of the try" class="tabs tabs-box tabs-xs">
      {#each languages as l (l)}
        <button
          role="tab"
          class="tab text-base-content"
          aria-selected={l === language}
          class:tab-active={l === language}
          onclick={() => (chosen = l)}>{words[l]}</button
        >
      {/each}
    </div>
  {/if}
  <button class="btn btn-primary btn-sm" disabled={attempt.busy} onclick={handIn}>What does it earn?</button>
  {#if mark}
    <p role="status">
      <b>{mark.earned} of {w.judgement?.points} points.</b>
      {mark.errors}
      {#each mark.scenes as m, n (n)}{#if !m.full}<span class="block">{names[n]}: {m.earned}. {m.loss}</span
          >{/if}{/each}
    </p>
  {/if}
  {#if attempt.problem}<p role="alert" class="text-error">{attempt.problem}</p>{/if}
</div>
<div class="flex h-[34rem] flex-col overflow-hidden rounded-box border border-base-300">
  {#key language}<ProgramBench workshop={w} {make} />{/key}
</div>
