<script lang="ts">
  // The scenarios in their order: chosen, added, copied, moved, taken out.
  import ArrowDown from '@lucide/svelte/icons/arrow-down'
  import ArrowUp from '@lucide/svelte/icons/arrow-up'
  import Copy from '@lucide/svelte/icons/copy'
  import Plus from '@lucide/svelte/icons/plus'
  import X from '@lucide/svelte/icons/x'
  import type { Workshop } from '../state/workshop.svelte'

  let { workshop: w, chosen = $bindable() }: { workshop: Workshop; chosen: number } = $props()
  const list = $derived(w.outline!.form.scenarios)
  let name = $state('')

  async function add(event: Event) {
    event.preventDefault()
    const value = {
      name: name.trim(),
      points: 1,
      ...(!w.predicts && { shown: false }),
      for: w.predicts ? '40 scans' : '5s',
      expect: 'solution',
    }
    const at = `scenarios/${list.length}`
    if (await w.change('edit', { edits: [{ do: 'insert', at, value }] })) {
      await w.look()
      chosen = list.length - 1
      name = ''
    }
  }
  async function move(to: number) {
    if (await w.moveItem('scenarios', chosen, to)) chosen = to
  }
  async function copy() {
    if (await w.change('copyScenario', { scenario: chosen })) {
      await w.look()
      chosen++
    }
  }
  const remove = () => w.change('edit', { edits: [{ do: 'remove', at: `scenarios/${chosen}` }] })
  const stateOf = (n: number) => {
    const scene = w.judgement?.scenes.find((s) => s.scenario === n)
    if (w.wrong(`scenarios/${n}`).some((p) => p.error)) return 'something is wrong'
    return scene?.moved.length ? 'the solution moved' : ''
  }
</script>

<section aria-label="Scenarios" class="flex min-h-0 flex-col gap-2 border-base-300 p-3 md:overflow-y-auto md:border-r">
  <ul class="flex flex-col gap-0.5">
    {#each list as s, n (n)}
      <li>
        <button
          class="flex w-full flex-col rounded-field border-l-4 px-2 py-1.5 text-left text-sm hover:bg-base-200 {n ===
          chosen
            ? 'border-primary bg-base-200'
            : 'border-transparent'}"
          aria-current={n === chosen}
          onclick={() => (chosen = n)}
        >
          <span class="font-medium">{s.name || 'without a name'}</span>
          <span class="opacity-80"
            >{s.points || 1}
            {s.points === '1' || !s.points ? 'point' : 'points'}, {w.predicts
              ? s.byHand === 'true'
                ? 'by hand'
                : 'exact'
              : s.shown === 'true'
                ? 'shown'
                : 'hidden'}</span
          >
          {#if stateOf(n)}<span class="text-xs font-medium text-error">{stateOf(n)}</span>{/if}
        </button>
      </li>
    {/each}
  </ul>
  {#if list.length}
    <div class="flex gap-1" role="group" aria-label="The chosen scenario">
      <button class="btn btn-square btn-xs" aria-label="Move up" disabled={chosen <= 0} onclick={() => move(chosen - 1)}
        ><ArrowUp size={14} /></button
      >
      <button
        class="btn btn-square btn-xs"
        aria-label="Move down"
        disabled={chosen >= list.length - 1}
        onclick={() => move(chosen + 1)}><ArrowDown size={14} /></button
      >
      <button class="btn btn-xs" onclick={copy}><Copy size={14} /> Copy</button>
      <button class="btn btn-xs" onclick={remove}><X size={14} /> Remove</button>
    </div>
  {/if}
  <form class="flex flex-col gap-1" onsubmit={add} aria-label="New scenario">
    <label class="text-sm"
      >What it shows <input
        class="input input-sm w-full"
        placeholder="stays on after release"
        required
        bind:value={name}
      /></label
    >
    <button class="btn btn-sm btn-primary"><Plus size={14} /> New scenario</button>
  </form>
</section>
