<script lang="ts">
  // What the class's counting hand-ins to an exercise tell; grading them again.
  import { api, type Evidence, type HandinShort, type Insight, type Key } from '../api'
  import { session } from '../state/session.svelte'
  import Mistakes from '../parts/Mistakes.svelte'
  import Loading from '../parts/Loading.svelte'
  import Regrade from '../parts/Regrade.svelte'
  import TimingDiagram from '../parts/TimingDiagram.svelte'

  let { params }: { params: { name: string } } = $props()
  const id = session.class!.id
  const insight = $derived(api.insight(id, params.name))
  const key = $derived(api.key(params.name).catch(() => undefined)) // the words stand without the drawing

  /** The scenarios in which somebody goes wrong, in the exercise's order. */
  const wrong = (i: Insight) =>
    i.scenarios.map((s) => s.name).filter((n) => i.differences.some((d) => d.scenario === n))
  /** What is expected in a scenario, without what any program did. */
  function expected(k: Key | undefined, scenario: string): Evidence | undefined {
    const e = k?.evidence.find((one) => one.scenario === scenario)
    return e && { ...e, actual: { ...e.actual, signals: [] } }
  }
</script>

{#snippet who(list: HandinShort[])}{#each list as h, n (h.id)}{n ? ', ' : ''}<a class="link" href="#/handin/{h.id}"
      >{h.person}</a
    >{/each}{/snippet}

<Loading what={insight}>
  {#snippet children(i)}
    <p class="mb-1 text-sm">
      <a class="link" href="#/">The class</a> · <a class="link" href="#/exercise/{i.exercise}/handins">all hand-ins</a>
    </p>
    <h1 class="mb-1 text-2xl font-semibold">{i.title}: how it went</h1>
    <p class="mb-5 opacity-80">
      {i.handins}
      {i.handins === 1 ? 'learner has' : 'learners have'} a mark; the hand-in that counts of each.
    </p>
    <div class="grid grid-cols-[minmax(0,1fr)] gap-8 lg:grid-cols-[24rem_minmax(0,1fr)]">
      <div class="flex flex-col gap-8">
        <section aria-label="Scenarios">
          <h2 class="mb-2 font-semibold">Scenarios</h2>
          <table class="table table-sm">
            <tbody>
              {#each i.scenarios as s (s.name)}
                <tr>
                  <th scope="row" class="font-medium">{s.name}</th>
                  <td class="w-24"
                    ><svg viewBox="0 0 100 8" class="h-2 w-full" aria-hidden="true" preserveAspectRatio="none"
                      ><rect width="100" height="8" class="fill-base-300" /><rect
                        width={(100 * s.passed) / s.of}
                        height="8"
                        class="fill-primary"
                      /></svg
                    ></td
                  >
                  <td class="whitespace-nowrap tabular-nums">{s.passed} of {s.of} whole</td>
                </tr>
              {/each}
            </tbody>
          </table>
        </section>
        <Mistakes groups={i.mistakes} looking={i.looking} exercise={i.exercise} />
        <section aria-label="Alike">
          <h2 class="mb-1 font-semibold">The same but for names and order</h2>
          <p class="mb-2 text-sm opacity-80">A fact, not a verdict: a short task has few right answers.</p>
          <ul class="flex flex-col gap-1 text-sm">
            {#each i.alike as a, n (n)}<li>{@render who(a.handins)}</li>{:else}<li>None.</li>{/each}
          </ul>
        </section>
        <section aria-label="Grade again">
          <h2 class="mb-1 font-semibold">Grade again</h2>
          <p class="mb-2 text-sm opacity-80">
            By the newest revision of the exercise: first see what changes, then all of it or nothing.
          </p>
          <Regrade exercise={i.exercise} />
        </section>
      </div>
      <section aria-label="Common slips" class="min-w-0">
        <h2 class="mb-2 font-semibold">Where it first goes wrong</h2>
        {#await key then k}
          {#each wrong(i) as name (name)}
            {@const slips = i.differences.filter((d) => d.scenario === name)}
            {@const mark = k?.result.scenarios.find((s) => s.name === name)}
            {@const evidence = expected(k, name)}
            <div class="mb-6" role="group" aria-label={name}>
              <h3 class="mb-2 font-medium">{name}</h3>
              <ul class="mb-2 flex flex-col gap-2">
                {#each slips as d (d.signal + d.say)}
                  <li class="border-l-4 border-warning pl-3 text-sm">
                    <b class="tabular-nums">{d.handins.length}×</b>
                    {#if d.signal}<span class="font-mono">{d.signal}</span>:{/if}
                    {d.say}
                    <span class="block">{@render who(d.handins)}</span>
                  </li>
                {/each}
              </ul>
              {#if mark && evidence}
                <TimingDiagram
                  {evidence}
                  {mark}
                  slips={slips.map((d) => ({ signal: d.signal, scan: d.scan, count: d.handins.length }))}
                />
              {/if}
            </div>
          {:else}<p class="text-sm">Nowhere.</p>{/each}
        {/await}
      </section>
    </div>
  {/snippet}
</Loading>
