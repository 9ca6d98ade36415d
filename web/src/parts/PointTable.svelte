<script lang="ts">
  // The inputs, or the outputs, as a wiring list is written: a row for each, moved by its handle or by Alt and an arrow.
  import ArrowDown from '@lucide/svelte/icons/arrow-down'
  import ArrowUp from '@lucide/svelte/icons/arrow-up'
  import GripVertical from '@lucide/svelte/icons/grip-vertical'
  import Plus from '@lucide/svelte/icons/plus'
  import X from '@lucide/svelte/icons/x'
  import { tick } from 'svelte'
  import type { Workshop } from '../state/workshop.svelte'
  import ChoiceCell from './ChoiceCell.svelte'
  import TableFrame from './TableFrame.svelte'
  import WrittenCell from './WrittenCell.svelte'

  let { workshop: w, input }: { workshop: Workshop; input: boolean } = $props()
  const place = $derived(input ? 'panel/inputs' : 'panel/outputs')
  const rows = $derived(input ? w.outline!.form.panel.inputs : w.outline!.form.panel.outputs)
  const words = $derived(w.outline!.words)
  const what = $derived(input ? 'Input' : 'Output')
  let table = $state<HTMLElement>()
  let dragged = $state(-1)

  async function add(type: string) {
    const n = rows.length
    if (!(await w.change('addPoint', { input, type }))) return
    await w.look()
    await tick()
    const field = table?.querySelector<HTMLInputElement>(`[data-at="${place}/${n}/name"]`)
    field?.focus()
    field?.select()
  }
  const move = (from: number, to: number) =>
    to >= 0 && to < rows.length && from !== to ? w.moveItem(place, from, to) : Promise.resolve(false)
  function key(event: KeyboardEvent, n: number) {
    const by = { ArrowUp: -1, ArrowDown: 1 }[event.key]
    if (!event.altKey || !by) return
    event.preventDefault()
    const field = (event.target as HTMLElement).dataset.at?.split('/').at(-1)
    void move(n, n + by).then(async (moved) => {
      if (!moved) return
      await tick()
      table?.querySelector<HTMLElement>(`[data-at="${place}/${n + by}/${field}"]`)?.focus()
    })
  }
  const remove = (n: number) => w.change('edit', { edits: [{ do: 'remove', at: `${place}/${n}` }] })
</script>

<div bind:this={table}>
  <div class="mb-1 flex items-center gap-2">
    <h2 class="font-semibold">{what}s</h2>
    <button class="btn btn-xs" data-add={what} onclick={() => add('BOOL')}><Plus size={14} /> {what}</button>
    <button class="btn btn-ghost btn-xs" data-add="{what} of a number" onclick={() => add('INT')}
      ><Plus size={14} /> {what} of a number</button
    >
  </div>
  <TableFrame label="{what}s">
    <table class="table table-xs">
      <thead
        ><tr class="text-base-content"
          ><th><span class="sr-only">Order</span></th><th>Name</th><th>Device</th>{#if input}<th>Contact</th>{/if}<th
            >Address</th
          ><th>Label</th><th>Type</th><th>Unit</th>{#if input}<th>First value</th>{/if}<th
            ><span class="sr-only">Remove</span></th
          ></tr
        ></thead
      >
      <tbody>
        {#each rows as p, n (n)}
          {@const at = `${place}/${n}`}
          <tr
            class="align-top"
            class:opacity-50={dragged === n}
            onkeydown={(e) => key(e, n)}
            ondragover={(e) => dragged >= 0 && e.preventDefault()}
            ondrop={(e) => {
              e.preventDefault()
              void move(dragged, n)
              dragged = -1
            }}
          >
            <td class="whitespace-nowrap"
              ><span
                class="inline-block cursor-grab align-middle"
                role="img"
                aria-label="Drag to move {p.name}"
                draggable="true"
                ondragstart={() => (dragged = n)}
                ondragend={() => (dragged = -1)}><GripVertical size={14} /></span
              ><button
                class="btn btn-square btn-ghost btn-xs"
                aria-label="Move {p.name} up"
                disabled={n === 0}
                onclick={() => move(n, n - 1)}><ArrowUp size={12} /></button
              ><button
                class="btn btn-square btn-ghost btn-xs"
                aria-label="Move {p.name} down"
                disabled={n === rows.length - 1}
                onclick={() => move(n, n + 1)}><ArrowDown size={12} /></button
              ></td
            >
            <td class="min-w-32"><WrittenCell workshop={w} at="{at}/name" value={p.name} label="Name" mono named /></td>
            <td
              ><ChoiceCell
                workshop={w}
                at="{at}/device"
                value={p.device}
                label="Device of {p.name}"
                choices={input ? words.inputDevices : words.outputDevices}
              /></td
            >
            {#if input}
              <td
                >{#if (p.type || 'BOOL') === 'BOOL'}<ChoiceCell
                    workshop={w}
                    at="{at}/contact"
                    value={p.contact || 'open'}
                    label="Contact of {p.name}"
                    choices={['open', 'closed']}
                    usual="open"
                  />{/if}</td
              >
            {/if}
            <td class="min-w-20"
              ><WrittenCell workshop={w} at="{at}/at" value={p.at} label="Address of {p.name}" mono /></td
            >
            <td class="min-w-32"
              ><WrittenCell workshop={w} at="{at}/label" value={p.label} label="Label of {p.name}" optional /></td
            >
            <td
              ><ChoiceCell
                workshop={w}
                at="{at}/type"
                value={p.type || 'BOOL'}
                label="Type of {p.name}"
                choices={words.types}
                usual="BOOL"
              /></td
            >
            <td class="w-16"
              >{#if p.type && p.type !== 'BOOL'}<WrittenCell
                  workshop={w}
                  at="{at}/unit"
                  value={p.unit}
                  label="Unit of {p.name}"
                  optional
                />{/if}</td
            >
            {#if input}<td class="w-16"
                ><WrittenCell
                  workshop={w}
                  at="{at}/initial"
                  value={p.initial}
                  label="First value of {p.name}"
                  optional
                /></td
              >{/if}
            <td
              ><button class="btn btn-square btn-ghost btn-xs" aria-label="Remove {p.name}" onclick={() => remove(n)}
                ><X size={14} /></button
              ></td
            >
          </tr>
        {:else}
          <tr><td colspan="10">{input ? 'What does the learner press?' : 'What does the program move?'}</td></tr>
        {/each}
      </tbody>
    </table>
  </TableFrame>
</div>
