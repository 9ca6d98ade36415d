<script lang="ts">
  // One problem in three languages, alive on one panel, and which language suits when.
  import { onDestroy } from 'svelte'
  import type { Exercise, Point } from '../api'
  import { Core } from '../core/core'
  import { Bench } from '../state/bench.svelte'
  import { putBeside, takeAway } from '../state/beside'
  import BenchDrawing from '../parts/BenchDrawing.svelte'
  import Editor from '../parts/Editor.svelte'
  import PanelPane from '../parts/PanelPane.svelte'
  import PlayControls from '../parts/PlayControls.svelte'

  const point = (name: string, at: string, device: string, label: string, contact?: string) =>
    ({ name, at, device, label, contact, type: 'BOOL' }) as Point
  const exercise = {
    name: 'languages',
    period: '10 ms',
    inputs: [
      point('mist_on', '%IX0.0', 'button', 'Mist ON', 'open'),
      point('mist_off', '%IX0.1', 'button', 'Mist OFF', 'closed'),
    ],
    outputs: [point('mist_valve', '%QX0.0', 'valve', 'Bed 1 mist'), point('vent', '%QX0.1', 'motor', 'Roof vent')],
    graded: [],
    tasks: [],
  } as unknown as Exercise
  const ladder = `PROGRAM mist_and_vent
VAR
  settle : TON;
END_VAR
LADDER
RUNG 'Mist until Off'
  { [mist_on] | [mist_valve] } -- [mist_off] -- (mist_valve);
RUNG 'Vent after settling'
  [mist_valve] -- settle(PT := T#3s) -- (vent);
END_LADDER
END_PROGRAM
`
  const core = new Core()
  const opened = core.open(exercise)
  const bench = new Bench(exercise, core, opened)
  onDestroy(() => {
    takeAway(bench)
    bench.end()
    core.end()
  })
  /** The other two are made of the first, so that they are the same. */
  async function begin() {
    await opened
    const program = { file: 'mist.ladder', text: ladder }
    const [blocks, text] = await Promise.all([core.convert(program, 'fbd'), core.convert(program, 'st')])
    await bench.start(program.file, program.text)
    await putBeside(bench, exercise, 'mist.fbd', blocks.text)
    return text.text
  }
  const begun = begin()
  const live = {
    read: (names: { line: number; name: string }[]) => bench.alsoShow([...new Set(names.map((n) => n.name))]),
    value: (_: number, name: string) => bench.value(name),
  }
  const suits = [
    [
      'Ladder',
      'Buttons, contacts, interlocks, a motor that holds itself in: what a circuit diagram would show.',
      'One sees where the power stops. Formulas and steps get long.',
    ],
    [
      'Blocks',
      'Signals on their way through gates, timers, counters and sums; a few ORs and ANDs that are drawn in five minutes.',
      'One sees what goes where. What goes back goes through a variable, so that a circle is not seen as one.',
    ],
    [
      'Structured text',
      'Sums, comparisons with numbers, steps (CASE), the same for each of many (FOR).',
      'Short, and everything can be said. There is no picture: the values stand beside the lines.',
    ],
  ]
</script>

<div class="mx-auto flex max-w-7xl flex-col gap-4">
  <h1 class="text-2xl font-semibold">One problem, three languages</h1>
  <p>
    Mist ON opens the mist valve, which stays open until Mist OFF; three seconds later the roof vent opens. Here is that
    program three times, on the same panel. Press Run, then the buttons.
  </p>
  {#await begun}
    <p role="status">Loading …</p>
  {:then text}
    <div class="flex flex-wrap items-start gap-4">
      <PlayControls {bench} />
      <div class="min-w-0 grow"><PanelPane {bench} wired={false} /></div>
    </div>
    <div class="grid gap-4 lg:grid-cols-[1fr_1.1fr_0.9fr]">
      <section class="min-w-0">
        <h2 class="mb-1 font-semibold">Ladder</h2>
        <BenchDrawing {bench} label="In ladder" />
      </section>
      <section class="min-w-0">
        <h2 class="mb-1 font-semibold">Blocks</h2>
        {#if bench.partner}<BenchDrawing bench={bench.partner} label="In blocks" />{/if}
      </section>
      <section class="min-w-0">
        <h2 class="mb-1 font-semibold">Structured text</h2>
        <Editor {text} diagnostics={[]} readonly {live} beat={bench.view} label="In structured text" />
      </section>
    </div>
  {:catch error}
    <p role="alert" class="alert">{(error as Error).message}</p>
  {/await}
  <h2 class="text-lg font-semibold">Which one when</h2>
  <div class="overflow-x-auto">
    <table class="table">
      <thead
        ><tr class="text-base-content"
          ><th scope="col">Language</th><th scope="col">Suits</th><th scope="col">Good to know</th></tr
        ></thead
      >
      <tbody>
        {#each suits as [language, what, know] (language)}
          <tr><th scope="row">{language}</th><td>{what}</td><td>{know}</td></tr>
        {/each}
      </tbody>
    </table>
  </div>
  <p>
    On the workbench, <b>The same in …</b> shows your own program in another language beside it, and both work. A loop cannot
    be drawn; it says so, and where.
  </p>
</div>
