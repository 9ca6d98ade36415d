<script lang="ts">
  // A scenario that was predicted, played on the bench: the program alive, and beside each signal what was drawn of it.
  import { onDestroy } from 'svelte'
  import { api, type Evidence, type ScenarioMark, type Solution } from '../api'
  import { Core } from '../core/core'
  import { Bench } from '../state/bench.svelte'
  import Played from './Played.svelte'
  import Loading from './Loading.svelte'

  let {
    exercise,
    program,
    evidence,
    mark,
  }: { exercise: string; program: Solution; evidence: Evidence; mark: ScenarioMark } = $props()
  const core = new Core()
  onDestroy(() => core.end())

  async function played(): Promise<Bench> {
    const e = await api.exercise(exercise)
    const opened = core.open(e)
    const bench = new Bench(e, core, opened)
    await opened
    bench.watch = [...new Set([...bench.watch, ...evidence.expected.signals.map((s) => s.name)])]
    const scans = mark.signals.map((s) => s.difference?.scan).filter((s) => s !== undefined)
    const until = Math.min(...scans, evidence.inputs.scans - 1)
    await bench.play(program.file, program.text, {
      exercise,
      evidence: { ...evidence, expected: evidence.actual },
      until: 0,
      drawn: true,
    })
    await bench.scans(Math.max(until, 1))
    await bench.zoomTo(evidence.inputs.scans)
    return bench
  }
  const playing = played()
</script>

<Loading what={playing}>
  {#snippet children(bench)}
    <Played {bench} says="Each line is what the program does; above it, dashed, what was drawn." />
  {/snippet}
</Loading>
