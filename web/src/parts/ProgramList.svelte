<script lang="ts">
  // The programs of the folder by what they are for; where each begins.
  import X from '@lucide/svelte/icons/x'
  import type { Workshop } from '../state/workshop.svelte'
  import { languageOf, programming, words, type Language } from '../state/written.svelte'
  import KindChoice from './KindChoice.svelte'
  import MistakeForm from './MistakeForm.svelte'
  import StarterForm from './StarterForm.svelte'
  import TaskList from './TaskList.svelte'

  let { workshop: w, file, choose }: { workshop: Workshop; file: string; choose: (file: string) => void } = $props()
  const texts = $derived(w.files.texts)
  const mistakes = $derived(Object.keys(texts).filter((f) => f.startsWith('mistakes/')))
  const started = $derived(programming.some((l) => texts['starter.' + l] !== undefined))
  /** A starter that is there stays in sight, so that it can be taken out. */
  const kinds = $derived(
    w.predicts
      ? [['solution', 'The program that is shown'], ...(started ? [['starter', 'Starter']] : [])]
      : [
          ['solution', 'Solution'],
          ['starter', 'Starter'],
        ],
  )
  const languages = $derived(w.exercise!.languages as Language[])
  const called = (f: string) =>
    f.startsWith('mistakes/')
      ? f
          .slice(9)
          .replace(/\.\w+$/, '')
          .replaceAll('-', ' ')
      : words[languageOf(f)]
  const errors = (f: string) => w.wrong(f).some((p) => p.error)

  async function begin(path: string, language: Language) {
    const { text } = await w.core.ask('begun', { files: w.named, language })
    w.write(path, text)
    choose(path)
  }
  function remove(f: string) {
    w.write(f, null)
    choose('')
  }
</script>

{#snippet one(f: string)}
  <li class="flex items-center">
    <button
      class="grow rounded-field border-l-4 px-2 py-1 text-left text-sm hover:bg-base-200 {f === file
        ? 'border-primary bg-base-200'
        : 'border-transparent'}"
      aria-current={f === file}
      onclick={() => choose(f)}
      ><span class="first-letter:capitalize">{called(f)}</span>{#if errors(f)}<span class="block text-xs text-error"
          >has errors</span
        >{/if}</button
    >
    <button class="btn btn-square btn-ghost btn-xs" aria-label="Take {f} out" onclick={() => remove(f)}
      ><X size={12} /></button
    >
  </li>
{/snippet}

<section aria-label="Programs" class="flex min-h-0 flex-col gap-2 border-base-300 p-3 md:overflow-y-auto md:border-r">
  <KindChoice workshop={w} />
  {#each kinds as [stem, title] (stem)}
    <h2 class="text-sm font-semibold">{title}</h2>
    <ul aria-label={title}>
      {#each programming as language (language)}
        {@const f = `${stem}.${language}`}
        {#if texts[f] !== undefined}{@render one(f)}
        {:else if languages.includes(language)}
          <li>
            <button class="btn btn-ghost btn-xs" data-begin={f} onclick={() => begin(f, language)}
              >+ in {words[language].toLowerCase()}</button
            >
          </li>
        {/if}
      {/each}
    </ul>
  {/each}
  {#if !w.predicts}<StarterForm workshop={w} {choose} />{/if}
  <h2 class="text-sm font-semibold">Known mistakes</h2>
  <ul aria-label="Known mistakes">
    {#each mistakes as f (f)}{@render one(f)}{/each}
  </ul>
  <MistakeForm workshop={w} {file} {choose} />
  <TaskList workshop={w} />
</section>
