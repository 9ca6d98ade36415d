<script lang="ts">
  // Check, hand in, what is wrong, whether it is saved: always in sight.
  import ChevronUp from '@lucide/svelte/icons/chevron-up'
  import type { Diagnostic } from '../api'
  import type { Draft, Kept } from '../state/draft.svelte'
  import Diagnostics from './Diagnostics.svelte'

  let { draft, go }: { draft: Draft; go: (d: Diagnostic) => void } = $props()
  const kept: Record<Kept, string> = {
    service: 'Saved',
    browser: 'Saving …',
    waiting: 'Saved in this browser; the service does not answer just now',
  }
  let lists = $state(false)
  const diagnostics = $derived(draft.checked?.diagnostics ?? [])
  const missing = $derived(draft.checked?.missing ?? [])
  const first = $derived(diagnostics[0])
  const count = $derived(diagnostics.length + missing.length)
  const absent = (m: string) => `A graded name is missing: ${m}. It earns nothing like this.`

  async function handIn() {
    await draft.handIn()
    if (draft.graded) location.hash = '#/handin/' + draft.graded
    else if (diagnostics.some((d) => d.severity === 'error')) lists = true
  }
</script>

<div class="relative shrink-0 border-t border-base-300 bg-base-200 px-4 py-2">
  {#if lists && count}
    <div
      class="absolute inset-x-0 bottom-full z-30 max-h-64 overflow-y-auto border-t border-base-300 bg-base-100 px-4 py-2 shadow-lg"
      role="region"
      aria-label="What is wrong"
    >
      <Diagnostics
        list={diagnostics}
        go={(d) => {
          lists = false
          go(d)
        }}
      />
      {#each missing as m (m)}<p class="px-2 py-1 text-sm">{absent(m)}</p>{/each}
    </div>
  {/if}
  <div class="flex flex-wrap items-center gap-x-3 gap-y-1">
    <button class="btn btn-sm" disabled={!!draft.progress} onclick={() => draft.check()}>Check</button>
    <button class="btn btn-primary btn-sm" disabled={!!draft.progress} onclick={handIn}>Hand in</button>
    <p role="status" class="flex items-center gap-2 text-sm">
      {#if draft.progress}
        <span class="loading loading-sm loading-dots" aria-hidden="true"></span>{draft.progress}
      {:else if draft.checked}
        <span class="font-medium">{draft.checked.summary}</span>
      {/if}
    </p>
    {#if draft.problem}<p class="min-w-0 text-sm font-medium text-error" role="alert">{draft.problem}</p>{/if}
    <div class="flex min-w-0 grow items-center gap-2 text-sm">
      {#if first}
        <button class="link min-w-0 truncate text-left" onclick={() => go(first)}
          >line {first.line} · {first.message} {first.hint ?? ''}</button
        >
      {:else if missing.length}<span class="min-w-0 truncate" title={absent(missing[0])}>{absent(missing[0])}</span
        >{/if}
      {#if count}
        <button class="btn btn-ghost shrink-0 btn-xs" aria-expanded={lists} onclick={() => (lists = !lists)}
          ><ChevronUp size={14} class={lists ? 'rotate-180' : ''} />{count === 1 ? 'All of it' : `All ${count}`}</button
        >
      {/if}
    </div>
    <p class="text-sm opacity-80" data-kept={draft.kept}>{kept[draft.kept]}</p>
  </div>
</div>
