<script lang="ts">
  // What is to be done: the brief, the wiring, what is graded, one's own hand-ins.
  import type { Exercise } from '../api'
  import OwnHandins from './OwnHandins.svelte'
  import PanelTable from './PanelTable.svelte'

  let { exercise: e }: { exercise: Exercise } = $props()
  const shown = $derived(e.scenarios.filter((s) => s.shown).length)
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<section aria-label="The task" class="flex min-h-0 grow flex-col gap-4 overflow-y-auto px-4 py-2 text-sm" tabindex="0">
  <!-- eslint-disable-next-line svelte/no-at-html-tags -- the service renders and sanitizes the brief -->
  <div class="brief">{@html e.brief}</div>
  <div>
    <h3 class="mb-1 font-semibold">Panel</h3>
    <PanelTable exercise={e} />
  </div>
  <p class="opacity-80">
    Graded: <span class="font-mono">{e.graded.map((g) => g.signal).join(', ')}</span> in {e.scenarios.length} scenarios, {shown}
    of them shown after a hand-in.
    {#if e.told}Graded {e.told}.{/if}
  </p>
  <OwnHandins exercise={e.name} />
</section>
