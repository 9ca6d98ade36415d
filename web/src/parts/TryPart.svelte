<script lang="ts">
  // What every program that comes with the exercise earns, scenario by scenario; and all that is wrong, untested or untold.
  import { partOf, parts } from '../state/parts'
  import type { Workshop } from '../state/workshop.svelte'
  import OwnSheet from './OwnSheet.svelte'
  import OwnTryPane from './OwnTryPane.svelte'
  import StrengthView from './StrengthView.svelte'
  import TableFrame from './TableFrame.svelte'

  let { workshop: w }: { workshop: Workshop } = $props()
  const j = $derived(w.judgement)
  let solving = $state(false)
  const scenarios = $derived(w.outline!.form.scenarios)
  const words: Record<string, string> = $derived({
    solution: w.predicts ? 'the program that is shown' : 'solution',
    starter: 'starter',
    empty: 'does nothing',
    mistake: 'known mistake',
  })
  const right = (what: string, full: boolean) => (what === 'solution') === full
  const nameOf = (part: string) => parts.find(([p]) => p === part)![1]
</script>

<div class="flex min-h-0 grow flex-col gap-5 overflow-y-auto p-4">
  <section aria-label="What each program earns">
    <h2 class="mb-1 font-semibold">
      What each program earns, of {j?.points === '1' ? '1 point' : `${j?.points ?? 0} points`}
    </h2>
    {#if j?.ready}
      <TableFrame label="Marks of each program">
        <table class="table table-sm">
          <thead
            ><tr class="text-base-content"
              ><th>Program</th><th class="text-right">Mark</th>{#each scenarios as s (s.name)}<th
                  class="max-w-40 text-right font-normal">{s.name}</th
                >{/each}</tr
            ></thead
          >
          <tbody>
            {#each j.variants as v (v.file)}
              <tr class="align-top">
                <th scope="row" class="font-medium"
                  >{v.what === 'empty' ? (w.predicts ? 'Nothing happens' : 'An empty program') : v.file}
                  <span class="block text-xs font-normal opacity-80">{words[v.what]}{v.says ? `: ${v.says}` : ''}</span>
                  {#if v.errors}<span class="block text-xs font-normal text-error">{v.errors}</span>{/if}
                  {#if !right(v.what, v.full) && v.what !== 'starter'}<span class="block text-xs font-normal text-error"
                      >{v.what === 'solution' ? 'it should be whole' : 'no scenario catches it'}</span
                    >{/if}</th
                >
                <td class="text-right font-medium tabular-nums">{v.earned}</td>
                {#each v.scenes as m, n (n)}
                  <td class="max-w-40 text-right tabular-nums" title={m.loss}
                    >{m.earned}{#if m.loss}<span class="block text-xs opacity-80">{m.loss}</span>{/if}</td
                  >
                {/each}
              </tr>
            {/each}
          </tbody>
        </table>
      </TableFrame>
      <p class="mt-1 text-sm opacity-80">
        Wrong variants are kept under Programs; each is marked again at every change.
      </p>
    {:else}<p>As soon as nothing is wrong, every program that comes with the exercise is marked here.</p>{/if}
  </section>
  <StrengthView workshop={w} />
  <section aria-label="What is wrong, untested or untold">
    <h2 class="mb-1 font-semibold">What is wrong, untested or untold</h2>
    <ul class="flex flex-col gap-1 text-sm">
      {#each w.problems as p, n (n)}
        <li class="flex flex-wrap gap-x-2">
          <a class="link" href="#/workshop/{w.owner}/{w.name}/{partOf(p)}">{nameOf(partOf(p))}</a>
          <span class:text-error={p.error}>{p.message}</span><span class="opacity-80">{p.hint}</span>
        </li>
      {:else}<li>Nothing: 0 errors, 0 warnings.</li>{/each}
    </ul>
  </section>
  <section aria-label="Solve it" class="flex flex-col gap-2">
    <h2 class="font-semibold">Solve it as a learner would</h2>
    {#if solving && w.predicts}<OwnSheet workshop={w} />
    {:else if solving}<OwnTryPane workshop={w} />
    {:else}<button class="btn self-start btn-sm" onclick={() => (solving = true)}>Begin</button>{/if}
  </section>
</div>
