<script lang="ts">
  // A script on the bench, played by a hand-in and by the solution at once.
  import { onDestroy } from 'svelte'
  import { api, type FoundDifference, type Handin, type Trace } from '../api'
  import { Core } from '../core/core'
  import { Bench } from '../state/bench.svelte'
  import BenchRungs from './BenchRungs.svelte'
  import Loading from './Loading.svelte'
  import PlayControls from './PlayControls.svelte'
  import TraceStrip from './TraceStrip.svelte'

  let { handin: h, difference: d }: { handin: Handin; difference: FoundDifference } = $props()
  const cores = [new Core(), new Core()]
  let ended = false
  onDestroy(() => {
    ended = true
    for (const core of cores) core.end()
  })

  /** Both on their benches, behind the first scan. */
  async function both(): Promise<Bench> {
    const [exercise, key] = await Promise.all([api.exercise(h.exercise), api.key(h.exercise)])
    const language = /\bLADDER\b/i.test(h.text ?? '') ? 'ladder' : 'st'
    const solution = key.solutions.find((s) => s.language === language) ?? key.solutions[0]
    const inputs = d.script as Trace
    const evidence = { scenario: '', inputs, expected: { ...inputs, signals: [] }, actual: { ...inputs, signals: [] } }
    const programs = [h, solution]
    const benches: Bench[] = []
    for (const [n, core] of cores.entries()) {
      const opened = core.open(exercise)
      benches.push(new Bench(exercise, core, opened))
      await opened
      if (ended) break
      const first = { exercise: h.exercise, evidence, until: 0 }
      await benches[n].play(programs[n].file, programs[n].text ?? '', first)
    }
    const [mine, other] = benches
    mine.partner = other
    await mine.scans(Math.max(d.scan, 1))
    mine.zoom(d.scan < 40 ? 50 : d.scan < 180 ? 200 : d.scan < 380 ? 400 : d.scan < 900 ? 1000 : 6000)
    return mine
  }
  const playing = both()
</script>

<Loading what={playing}>
  {#snippet children(bench)}
    <div class="flex flex-col gap-2 rounded-box border border-base-300 p-2" data-playing={bench.view?.scans}>
      <PlayControls {bench} />
      <p class="text-xs opacity-80">
        Each line is the hand-in's; beneath it, where the two differ, the solution's (“other”).
      </p>
      <div class="h-56"><TraceStrip {bench} /></div>
      <div class="grid gap-3 lg:grid-cols-2">
        {#each [[bench, 'The hand-in'], [bench.partner, 'The solution']] as const as [one, label] (label)}
          {#if one?.rungs.length}<div>
              <h3 class="mb-1 text-xs font-semibold">{label}</h3>
              <BenchRungs bench={one} {label} />
            </div>{/if}
        {/each}
      </div>
    </div>
  {/snippet}
</Loading>
