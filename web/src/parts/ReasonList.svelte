<script lang="ts">
  // What may be chosen where somebody says that a trace is erratic.
  import X from '@lucide/svelte/icons/x'
  import type { Workshop } from '../state/workshop.svelte'
  import WrittenCell from './WrittenCell.svelte'

  let { workshop: w }: { workshop: Workshop } = $props()
  const reasons = $derived(w.outline!.form.reasons)
  let text = $state('')

  async function add(event: Event) {
    event.preventDefault()
    const edits = [{ do: 'insert' as const, at: `reasons/${reasons.length}`, value: text.trim() }]
    if (await w.change('edit', { edits })) text = ''
  }
  const remove = (n: number) =>
    w.change('edit', { edits: [{ do: 'remove', at: reasons.length === 1 ? 'reasons' : `reasons/${n}` }] })
</script>

<section aria-label="Reasons" class="flex flex-col gap-2 text-sm">
  <h2 class="text-base font-semibold">Reasons to choose from</h2>
  <p class="opacity-80">
    Where a hand works the devices, a learner may say that the trace is erratic, and chooses why. Offer what is wrong,
    too.
  </p>
  <ul class="flex flex-col gap-1" aria-label="Reasons">
    {#each reasons as reason, n (n)}
      <li class="flex items-center gap-2">
        <WrittenCell workshop={w} at="reasons/{n}" value={reason} label="Reason {n + 1}" wide />
        <button class="btn btn-square btn-ghost btn-xs" aria-label="Take reason {n + 1} out" onclick={() => remove(n)}
          ><X size={14} /></button
        >
      </li>
    {/each}
  </ul>
  <form class="flex gap-2" onsubmit={add}>
    <input class="input input-sm grow" aria-label="Another reason" placeholder="Another reason" bind:value={text} />
    <button class="btn btn-sm" disabled={!text.trim()}>Add</button>
  </form>
</section>
