<script lang="ts">
  // Which program runs how often, where not all run in every scan.
  import X from '@lucide/svelte/icons/x'
  import type { Workshop } from '../state/workshop.svelte'
  import WrittenCell from './WrittenCell.svelte'

  let { workshop: w }: { workshop: Workshop } = $props()
  const tasks = $derived(w.outline!.form.tasks)
  let name = $state('')
  const wrong = $derived(w.wrong('tasks').filter((p) => !/\/\w+$/.test(p.at) || /\/\d+$/.test(p.at)))

  async function add(event: Event) {
    event.preventDefault()
    const value = { program: name.trim() }
    if (await w.change('edit', { edits: [{ do: 'insert', at: `tasks/${tasks.length}`, value }] })) name = ''
  }
  const remove = (n: number) =>
    w.change('edit', { edits: [{ do: 'remove', at: tasks.length === 1 ? 'tasks' : `tasks/${n}` }] })
</script>

<details class="text-sm" open={tasks.length > 0}>
  <summary class="cursor-pointer font-semibold">Tasks</summary>
  <ul class="flex flex-col gap-2" aria-label="Tasks">
    {#each tasks as t, n (n)}
      {@const at = `tasks/${n}`}
      <li class="flex flex-col gap-1 rounded-box border border-base-300 p-1.5">
        <span class="flex items-center gap-1"
          ><span class="grow font-mono">{t.program}</span><button
            class="btn btn-square btn-ghost btn-xs"
            aria-label="Take the task of {t.program} out"
            onclick={() => remove(n)}><X size={12} /></button
          ></span
        >
        <label class="flex items-center gap-1"
          ><input
            type="checkbox"
            class="checkbox checkbox-xs"
            data-once={t.program}
            checked={t.once === 'true'}
            onchange={(e) => w.put(`${at}/once`, e.currentTarget.checked ? true : undefined)}
          /> once, at the start</label
        >
        {#if t.once !== 'true'}
          <label class="flex items-center gap-1"
            >every <WrittenCell
              workshop={w}
              at="{at}/every"
              value={t.every}
              label="Every of {t.program}"
              optional
            /></label
          >
        {/if}
        <label class="flex items-center gap-1"
          >priority <WrittenCell
            workshop={w}
            at="{at}/priority"
            value={t.priority}
            label="Priority of {t.program}"
            kind="number"
            optional
          /></label
        >
      </li>
    {:else}<li class="opacity-80">Every program runs in every scan.</li>{/each}
  </ul>
  {#each wrong as p (p.message)}<p class:text-error={p.error}>{p.message} {p.hint}</p>{/each}
  <form class="mt-1 flex flex-col gap-1" onsubmit={add} aria-label="New task">
    <label>Program <input class="input input-xs w-full font-mono" required bind:value={name} /></label>
    <button class="btn btn-xs">Add a task</button>
  </form>
</details>
