<script lang="ts">
  // What is to be done: the brief, the wiring, what is graded, one's own hand-ins.
  import type { Exercise } from '../api'
  import OwnHandins from './OwnHandins.svelte'
  import type { Bench } from '../state/bench.svelte'
  import PanelTable from './PanelTable.svelte'
  import WiringView from './WiringView.svelte'

  let { exercise: e, bench }: { exercise: Exercise; /** None where nothing runs. */ bench?: Bench } = $props()
  const shown = $derived(e.scenarios.filter((s) => s.shown).length)
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<section aria-label="The task" class="flex min-h-0 grow flex-col gap-4 overflow-y-auto px-4 py-2 text-sm" tabindex="0">
  <!-- eslint-disable-next-line svelte/no-at-html-tags -- the service renders and sanitizes the brief -->
  <div class="brief">{@html e.brief}</div>
  <div class="[&_td]:px-2 [&_td]:py-1 [&_td]:text-xs [&_th]:px-2 [&_th]:py-1 [&_th]:text-xs">
    <h3 class="mb-1 font-semibold">Wiring</h3>
    {#if bench?.ready}<WiringView {bench} />{/if}
    <PanelTable exercise={e} />
  </div>
  <p class="opacity-80">
    {e.kind === 'predict' ? 'Asked' : 'Graded'}:
    <span class="font-mono">{e.graded.map((g) => g.signal).join(', ')}</span> in {e.scenarios.length} scenarios{e.kind ===
    'predict'
      ? '.'
      : `, ${shown} of them shown after a hand-in.`}
    {#if e.told}Graded {e.told}.{/if}
  </p>
  <OwnHandins exercise={e.name} />
</section>
