<script lang="ts">
  // What is compared, how strictly and how much it weighs; what points are taken off for.
  import type { Workshop } from '../state/workshop.svelte'
  import GradedTable from './GradedTable.svelte'
  import ReasonList from './ReasonList.svelte'
  import RuleList from './RuleList.svelte'
  import SignalChoice from './SignalChoice.svelte'

  let { workshop: w }: { workshop: Workshop } = $props()
</script>

<div class="grid min-h-0 grow grid-cols-[minmax(0,1fr)] gap-6 overflow-y-auto p-4 lg:grid-cols-[18rem_minmax(0,1fr)]">
  <SignalChoice workshop={w} />
  <div class="flex min-w-0 flex-col gap-6">
    <GradedTable workshop={w} />
    {#if w.predicts}<ReasonList workshop={w} />{/if}
    {#if !w.predicts || w.outline!.form.rules.length}<RuleList workshop={w} />{/if}
  </div>
</div>
