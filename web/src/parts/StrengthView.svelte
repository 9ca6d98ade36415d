<script lang="ts">
  // What the scenarios catch of the programs that differ from a solution by one mistake, and what slips through.
  import { onDestroy } from 'svelte'
  import { Strength } from '../state/strength.svelte'
  import type { Workshop } from '../state/workshop.svelte'
  import TableFrame from './TableFrame.svelte'

  let { workshop: w }: { workshop: Workshop } = $props()
  // svelte-ignore state_referenced_locally
  const strength = new Strength(w)
  onDestroy(() => strength.end())
  const about = $derived(JSON.stringify({ ...w.named, 'brief.md': '' }))
  $effect(() => {
    if (!about || !w.judgement?.ready) return
    const soon = setTimeout(() => void strength.find(), 300)
    return () => clearTimeout(soon)
  })
  const t = $derived(strength.table)
  const finding = $derived(strength.mutants > 0 && strength.tried < strength.mutants)
  const needless = $derived(t?.scenarios.filter((s) => s.scenario && s.alone === 0) ?? [])
</script>

<section aria-label="Strength" class="flex flex-col gap-2" data-strength={t && !strength.stale ? t.percent : undefined}>
  <h2 class="font-semibold">
    Strength{#if t}<span class="ml-2 tabular-nums" class:opacity-60={strength.stale}>{t.percent} %</span>{/if}
  </h2>
  {#if !w.judgement?.ready}
    <p>As soon as nothing is wrong, programs with one mistake are made of the solutions and tried here.</p>
  {:else}
    {#if finding}
      <progress class="progress w-60" value={strength.tried} max={strength.mutants} aria-label="Trying wrong programs"
      ></progress>
    {/if}
    {#if strength.problem}<p class="text-error">{strength.problem}</p>{/if}
    {#if t}
      <p class="text-sm" class:opacity-60={strength.stale}>
        {t.caught} of {t.mutants} programs with one mistake lose marks.
        {#if t.same}{t.same} more do what the solution does, as far as a fair script can tell, and do not count.{/if}
      </p>
      {#each t.unfair as words (words)}<p class="text-sm">{words}</p>{/each}
      {#each t.slipped as one (one.file + one.mistake)}
        <div class="rounded-box border border-base-300 p-2 text-sm" data-slipped={one.mistake}>
          <p><span class="font-medium">Slips through:</span> {one.mistake}, in {one.file}</p>
          <p class="opacity-80">{one.words}, in this scenario:</p>
          <pre class="overflow-x-auto font-mono text-xs">{one.lines.join('\n') || 'nothing is touched'}</pre>
          <button
            class="btn mt-1 btn-xs"
            disabled={strength.stale || w.may !== 'change'}
            onclick={() => void strength.add(one)}>Add this scenario</button
          >
        </div>
      {/each}
      <div class="flex flex-wrap gap-6">
        <TableFrame label="Caught by kind of mistake">
          <table class="table table-xs">
            <thead><tr class="text-base-content"><th>Mistake</th><th class="text-right">Caught</th></tr></thead>
            <tbody>
              {#each t.kinds as k (k.kind)}
                <tr
                  ><th scope="row" class="font-normal">{k.words}</th><td
                    class="text-right tabular-nums"
                    class:font-semibold={k.caught < k.mutants}>{k.caught} of {k.mutants}</td
                  ></tr
                >
              {/each}
            </tbody>
          </table>
        </TableFrame>
        <div class="flex max-w-prose flex-col gap-2">
          <TableFrame label="Caught by scenario">
            <table class="table table-xs">
              <thead
                ><tr class="text-base-content"
                  ><th>Scenario</th><th class="text-right">Catches</th><th class="text-right">Alone</th></tr
                ></thead
              >
              <tbody>
                {#each t.scenarios as s (s.scenario)}
                  <tr
                    ><th scope="row" class="font-normal">{s.scenario || 'the rules'}</th><td
                      class="text-right tabular-nums">{s.caught}</td
                    ><td class="text-right tabular-nums">{s.alone}</td></tr
                  >
                {/each}
              </tbody>
            </table>
          </TableFrame>
          {#if needless.length}<p class="text-sm">
              Each of these catches nothing that the others do not: {needless.map((s) => s.scenario).join('; ')}.
            </p>{/if}
        </div>
      </div>
    {/if}
  {/if}
</section>
