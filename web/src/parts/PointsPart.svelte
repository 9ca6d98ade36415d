<script lang="ts">
  // The wiring list, and the panel beside it, alive at once.
  import type { Workshop } from '../state/workshop.svelte'
  import LivePanel from './LivePanel.svelte'
  import PointTable from './PointTable.svelte'
  import WrittenCell from './WrittenCell.svelte'

  let { workshop: w }: { workshop: Workshop } = $props()
  const form = $derived(w.outline!.form)
  const open = $derived(w.wrong('panel').filter((p) => !/^panel\/(in|out)puts\/\d+\/\w+$/.test(p.at)))
</script>

<div
  class="grid min-h-0 grow grid-cols-[minmax(0,1fr)] overflow-y-auto lg:grid-cols-[minmax(0,1fr)_19rem] lg:overflow-hidden"
>
  <section aria-label="Points" class="flex min-h-0 flex-col gap-4 px-4 py-3 lg:overflow-y-auto">
    <div class="flex flex-wrap items-end gap-3 text-sm">
      <label class="flex w-44 flex-col"
        >Topic <WrittenCell workshop={w} at="topic" value={form.topic} label="Topic" optional /></label
      >
      <label class="flex w-32 flex-col"
        >A scan every <WrittenCell
          workshop={w}
          at="period"
          value={form.period}
          label="A scan every"
          optional
          usual="10ms"
        /></label
      >
      <p class="max-w-md opacity-80">
        A name like <span class="font-mono">tray_{'{1..10}'}</span> is ten points in a row.
      </p>
    </div>
    <PointTable workshop={w} input />
    <PointTable workshop={w} input={false} />
    {#each open as p (p.at + p.message)}<p class="text-sm" class:text-error={p.error}>{p.message} {p.hint}</p>{/each}
  </section>
  <section aria-label="The panel, alive" class="border-base-300 px-3 py-3 lg:overflow-y-auto lg:border-l">
    <LivePanel workshop={w} />
  </section>
</div>
