<script lang="ts">
  // What is graded: the weight of each by a slider, in shares that add up to the whole; how far a change may be off.
  import X from '@lucide/svelte/icons/x'
  import type { Workshop } from '../state/workshop.svelte'
  import { shares } from '../state/shares'
  import TableFrame from './TableFrame.svelte'
  import WeightSlider from './WeightSlider.svelte'
  import WrittenCell from './WrittenCell.svelte'

  let { workshop: w }: { workshop: Workshop } = $props()
  const graded = $derived(w.outline!.form.graded)
  const parts = $derived(shares(graded.map((g) => Number(g.weight) || 1)))
  const called = (g: (typeof graded)[number]) => (g.block ? `${g.member} of any ${g.block}` : g.signal)
  const remove = (n: number) => w.change('edit', { edits: [{ do: 'remove', at: `graded/${n}` }] })
</script>

<section aria-label="What is graded">
  <h2 class="mb-1 font-semibold">What is graded, in every scenario without checks of its own</h2>
  <TableFrame label="What is graded, in a table">
    <table class="table table-sm">
      <thead
        ><tr class="text-base-content"
          ><th>Signal</th><th>Weight</th><th>Share</th><th title="How far a change may be off">Slack</th><th
            title="How much further than the one before it">Drift</th
          ><th title="How far a number or a time may be off">Within</th><th><span class="sr-only">Remove</span></th></tr
        ></thead
      >
      <tbody>
        {#each graded as g, n (n)}
          {@const at = `graded/${n}`}
          <tr class="align-top">
            <th scope="row" class="font-mono font-medium"
              >{called(g)}{#each w.wrong(at).filter((p) => !/\/(slack|drift|within)$/.test(p.at)) as p (p.message)}<span
                  class="block font-sans text-xs font-normal"
                  class:text-error={p.error}>{p.message} {p.hint}</span
                >{/each}</th
            >
            <td class="min-w-40"
              ><WeightSlider
                workshop={w}
                at="{at}/weight"
                value={Number(g.weight) || 1}
                label="Weight of {called(g)}"
              /></td
            >
            <td class="tabular-nums">{parts[n]} %</td>
            <td class="w-28"
              ><WrittenCell
                workshop={w}
                at="{at}/slack"
                value={g.slack}
                label="Slack of {called(g)}"
                optional
                usual="2 scans"
              /></td
            >
            <td class="w-24"
              ><WrittenCell workshop={w} at="{at}/drift" value={g.drift} label="Drift of {called(g)}" optional /></td
            >
            <td class="w-24"
              ><WrittenCell workshop={w} at="{at}/within" value={g.within} label="Within of {called(g)}" optional /></td
            >
            <td
              ><button
                class="btn btn-square btn-ghost btn-xs"
                aria-label="Do not grade {called(g)}"
                onclick={() => remove(n)}><X size={14} /></button
              ></td
            >
          </tr>
        {:else}<tr><td colspan="7">Nothing is graded yet. Click a signal on the left.</td></tr>{/each}
      </tbody>
    </table>
  </TableFrame>
  <p class="mt-1 text-sm opacity-80">
    Slack is 2 scans where none is written; write 0 scans where the width or the order is the lesson.
  </p>
</section>
