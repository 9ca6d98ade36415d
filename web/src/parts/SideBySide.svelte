<script lang="ts">
  // A script on the bench, played by a hand-in and by the solution at once.
  import { onDestroy } from 'svelte'
  import { api, type FoundDifference, type Handin, type Trace } from '../api'
  import { Core } from '../core/core'
  import { Bench } from '../state/bench.svelte'
  import { writtenIn } from '../state/written.svelte'
  import Loading from './Loading.svelte'
  import Played from './Played.svelte'

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
    const language = writtenIn(h.text ?? '')
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
    await mine.zoomTo(d.scan + 10)
    return mine
  }
  const playing = both()
</script>

<Loading what={playing}>
  {#snippet children(bench)}
    <Played
      {bench}
      says="Each line is the hand-in's; beneath it, where the two differ, the solution's (“other”)."
      label="The hand-in"
      other="The solution"
    />
  {/snippet}
</Loading>
