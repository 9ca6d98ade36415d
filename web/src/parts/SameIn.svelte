<script lang="ts">
  // The program in another language, alive beside the original on the same inputs.
  import { onDestroy, untrack } from 'svelte'
  import type { Bench } from '../state/bench.svelte'
  import { putBeside, takeAway } from '../state/beside'
  import { programming, words, type Language, type Written } from '../state/written.svelte'
  import BenchDrawing from './BenchDrawing.svelte'

  let { draft, bench }: { draft: Written; bench: Bench } = $props()
  const others = $derived(programming.filter((l) => l !== draft.language))
  let chosen = $state<Language>(localStorage.getItem('celandine.same') as Language)
  const language = $derived(others.includes(chosen) ? chosen : others[0])
  let told = $state<string[]>([])

  async function convert(text: string, to: Language) {
    try {
      const same = await draft.core!.convert({ file: draft.file, text }, to)
      const problem = await putBeside(bench, draft.exercise, 'same.' + to, same.text)
      told = problem ? [problem] : same.told
    } catch (error) {
      takeAway(bench)
      told = [(error as Error).message]
    }
  }
  // It follows what runs: the text with errors stays off the bench.
  let soon: ReturnType<typeof setTimeout> | undefined
  $effect(() => {
    const [text, to] = [bench.text, language]
    clearTimeout(soon)
    if (text) soon = untrack(() => setTimeout(() => void convert(text, to), 50))
  })
  onDestroy(() => {
    clearTimeout(soon)
    takeAway(bench)
  })
  function choose(l: Language) {
    chosen = l
    localStorage.setItem('celandine.same', l)
  }
</script>

<section aria-label="The same in another language" class="flex min-h-0 grow flex-col gap-1 pl-2">
  <div role="tablist" aria-label="The same in" class="tabs tabs-box tabs-xs self-start">
    {#each others as l (l)}
      <button
        role="tab"
        class="tab text-base-content"
        aria-selected={language === l}
        class:tab-active={language === l}
        onclick={() => choose(l)}>{words[l]}</button
      >
    {/each}
  </div>
  <a class="link text-xs" href="#/languages">Which language when?</a>
  {#each told as line (line)}<p class="text-sm" role="status">{line}</p>{/each}
  {#if bench.partner}<BenchDrawing
      bench={bench.partner}
      label="The same in {words[language].toLowerCase()}"
      fills
    />{/if}
</section>
