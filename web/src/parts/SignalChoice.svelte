<script lang="ts">
  // The solution's signals, each clicked to be graded or not. A member of a standard block is graded whatever a hand-in calls it.
  import type { Judgement } from '../core/calls'
  import type { Workshop } from '../state/workshop.svelte'

  let { workshop: w }: { workshop: Workshop } = $props()
  type Signal = Judgement['signals'][number]
  const all = $derived(w.judgement?.signals ?? [])
  const outputs = $derived(all.filter((s) => s.output))
  const inside = $derived(all.filter((s) => !s.output))
  // Without a solution that runs, the panel's outputs can be chosen all the same.
  const early = $derived(
    all.length
      ? []
      : w.exercise!.outputs.map((p): Signal => ({
          name: p.name,
          type: p.type,
          output: true,
          block: '',
          member: '',
          graded: w.outline!.form.graded.findIndex((g) => g.signal.toLowerCase() === p.name.toLowerCase()),
        })),
  )
  const turn = (signal: Signal) => w.change('gradeSignal', { signal })
</script>

{#snippet list(signals: Signal[], label: string)}
  <ul class="flex flex-col gap-0.5" aria-label={label}>
    {#each signals as s (s.name)}
      <li>
        <label class="flex items-center gap-2 rounded-field px-1 text-sm hover:bg-base-200"
          ><input
            type="checkbox"
            class="checkbox checkbox-sm"
            data-grade={(s.block ? s.block + '.' + s.member : s.name).toLowerCase()}
            checked={s.graded >= 0}
            onchange={() => turn(s)}
          />
          <span class="font-mono">{s.name}</span>
          <span class="opacity-80">{s.block ? `${s.member} of any ${s.block}` : s.type}</span></label
        >
      </li>
    {/each}
  </ul>
{/snippet}

<section aria-label="What can be graded" class="flex flex-col gap-2">
  <h2 class="font-semibold">Click what is graded</h2>
  {@render list(outputs.length ? outputs : early, 'Outputs')}
  {#if inside.length}
    <h3 class="text-sm font-semibold">Inside the solution</h3>
    <div class="max-h-96 overflow-y-auto">{@render list(inside, 'Inside the solution')}</div>
  {:else}<p class="text-sm opacity-80">What is inside the solution can be graded as soon as it runs.</p>{/if}
</section>
