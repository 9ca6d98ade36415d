<script lang="ts">
  // The bench: run, stop, step, and what is looked at: the trace, the watch list, the addresses, a scan from within, another program.
  import { untrack } from 'svelte'
  import { give } from '../file'
  import { spotsOf, type NetworkSpot } from '../state/network'
  import type { Bench } from '../state/bench.svelte'
  import { Foretold } from '../state/foretold.svelte'
  import { session } from '../state/session.svelte'
  import type { Written } from '../state/written.svelte'
  import type { Drawing } from '../state/drawing.svelte'
  import AddressTable from './AddressTable.svelte'
  import BenchDrawing from './BenchDrawing.svelte'
  import Compare from './Compare.svelte'
  import ForetoldPane from './ForetoldPane.svelte'
  import ScanWalk from './ScanWalk.svelte'
  import TraceStrip from './TraceStrip.svelte'
  import WatchList from './WatchList.svelte'
  import WhyView from './WhyView.svelte'

  let { bench, draft, drawing }: { bench: Bench; draft: Written; drawing: Drawing } = $props()
  let byHand = $state({ table: '', scenario: '' })
  const written = (done: typeof byHand) => [
    {
      label: 'Script',
      file: 'by-hand.csv',
      text: done.table,
      say: 'What was done here, as a scan table: for celandine run --script, or a scenario.',
    },
    {
      label: 'Scenario',
      file: 'by-hand.yaml',
      text: done.scenario,
      say: 'The same as a scenario, to be put under “scenarios” in an exercise.yaml.',
    },
  ]
  // svelte-ignore state_referenced_locally
  const foretold = new Foretold(
    draft.exercise,
    bench,
    `celandine.${session.person?.login}.${draft.exercise.name}.foretold`,
  )
  const always = ['Trace', 'Watch', 'Addresses', 'This scan', 'Beside', 'Script'] as const
  type View = (typeof always)[number] | 'Predict'
  const views: readonly View[] = foretold.any ? ['Predict', ...always] : always
  let view = $state<View>(foretold.any && !foretold.over ? 'Predict' : 'Trace')
  $effect(() => {
    void bench.view
    untrack(() => void foretold.look())
  })
  const verdict = $derived(foretold.verdict)
  const wordOf = (value: number, bool: boolean) => (bool ? (value ? 'TRUE' : 'FALSE') : String(value))
  async function choose(v: View) {
    if (view === 'This scan') bench.leave()
    view = v
    if (v === 'Script') byHand = await bench.script()
    if (v === 'This scan' && bench.view) await bench.walk()
  }
  const spans = [50, 200, 400, 1000, 6000, 60000]
  const cursor = $derived(bench.view?.scan ?? 0)
  /** The walk follows in the drawing. */
  $effect(() => {
    const s = bench.stages?.[bench.step]
    if (!s?.line) return
    const n = drawing.networks.find((n) => s.start >= n.start && s.start < n.end)
    if (n) {
      const within = spotsOf(n.geometry).filter(
        (p) => p.end > p.start && n.start + p.start >= s.start && n.start + p.end <= s.end,
      )
      const whole = within.reduce<NetworkSpot | null>((a, b) => (a && a.end - a.start >= b.end - b.start ? a : b), null)
      drawing.place = { unit: n.unit, rung: n.number, path: whole?.path ?? [] }
      return
    }
    const r = drawing.rungs.findIndex((r) => s.start >= r.start && s.start < r.end)
    if (r < 0) return
    const g = drawing.rungs[r].geometry
    const item = g.items.findIndex((i) => drawing.rungs[r].start + i.start === s.start)
    drawing.stand(
      r,
      Math.max(
        0,
        g.spots.findIndex((p) => p.item === item),
      ),
    )
  })
</script>

<section
  aria-label="Bench"
  data-current={bench.loaded && bench.text === draft.text}
  class="flex min-h-0 grow flex-col gap-1 px-3 py-1.5"
>
  {#if !bench.ready}
    <p role={bench.problem ? 'alert' : 'status'} class="text-sm">{bench.problem || 'Getting the bench ready …'}</p>
  {:else}
    <div class="flex shrink-0 flex-wrap items-center gap-1.5 text-sm">
      <div role="tablist" aria-label="What to look at" class="tabs tabs-box tabs-xs">
        {#each views as v (v)}
          <button
            role="tab"
            class="tab text-base-content"
            aria-selected={view === v}
            class:tab-active={view === v}
            onclick={() => choose(v)}>{v}</button
          >
        {/each}
      </div>
      {#if bench.view}
        <span role="status" data-testid="scan" class="min-w-40 font-medium tabular-nums"
          >{bench.at === null ? 'Now' : 'Back'}: scan {cursor} ({bench.view.time})</span
        >
        <span class="join">
          <button
            class="btn join-item btn-xs"
            aria-label="One scan back"
            title="One scan back"
            onclick={() => bench.look(cursor - 1)}>‹</button
          >
          <button
            class="btn join-item btn-xs"
            aria-label="One scan on"
            title="One scan on"
            disabled={bench.at === null}
            onclick={() => bench.look(cursor + 1)}>›</button
          >
        </span>
        <button class="btn btn-xs" disabled={bench.at === null} onclick={() => bench.look(bench.view!.scans - 1)}
          >To now</button
        >
        <button
          class="btn btn-xs"
          disabled={bench.at === null}
          title="Forget what came after, and go on from this scan"
          onclick={() => bench.back()}>Go on from here</button
        >
        {#if view === 'Trace'}
          <select
            class="select select-xs ml-auto w-28"
            aria-label="Width"
            value={bench.span}
            onchange={(e) => bench.zoom(Number(e.currentTarget.value))}
          >
            {#each spans as s (s)}<option value={s}>{s} scans</option>{/each}
          </select>
        {/if}
      {/if}
    </div>
    {#each Object.entries(bench.instances) as [block, list] (block)}
      <label class="flex shrink-0 items-center gap-2 text-sm"
        >Inside <span class="font-mono">{block}</span>, show
        <select
          class="select select-xs w-40 font-mono"
          aria-label="Inside {block}, show"
          value={bench.chosen[block]}
          onchange={(e) => bench.choose(block, e.currentTarget.value)}
          >{#each list as i (i)}<option>{i}</option>{/each}</select
        >
      </label>
    {/each}
    {#if bench.problem}<p class="text-sm text-error" role="alert">{bench.problem}</p>{/if}
    {#if bench.notice}<p class="rounded-field bg-base-200 px-2 py-1 text-sm" role="status">{bench.notice}</p>{/if}
    {#if bench.view?.fault}<p class="text-sm font-medium text-error" role="alert">
        The program stopped in line {bench.view.line}: {bench.view.fault} Restart when it is mended.
      </p>{/if}
    <div class="flex min-h-0 grow flex-col gap-2 overflow-auto">
      {#if bench.why}<div class="rounded-box border border-base-300 p-2 text-sm">
          <h3 class="flex items-center gap-2 font-semibold">
            Why {bench.why.signal} was {bench.why.value} at scan {bench.why.scan}
            <button
              class="btn btn-ghost btn-xs ml-auto"
              aria-label="Close the reasons"
              onclick={() => (bench.why = null)}>×</button
            >
          </h3>
          <WhyView why={bench.why} drawn={bench} go={(s) => bench.look(s.scan)} />
        </div>{/if}
      {#if view === 'Predict'}
        <ForetoldPane
          {foretold}
          ready={bench.loaded}
          run={(n) => {
            view = 'Trace'
            void foretold.play(foretold.scenarios[n], draft.file, draft.text)
          }}
          skip={() => {
            foretold.end()
            view = 'Trace'
          }}
        />
      {:else if bench.view}
        {#if verdict && view === 'Trace'}
          <p class="border-l-4 pl-3 text-sm {verdict.apart ? 'border-warning' : 'border-success'}" role="status">
            {#if verdict.apart}In “{verdict.scenario}” they part at scan {verdict.apart.scan}: {verdict.apart.signal} is {wordOf(
                verdict.apart.does,
                verdict.apart.bool,
              )}, and {wordOf(verdict.apart.drawn, verdict.apart.bool)} was drawn.
              <button class="link" onclick={() => bench.look(verdict.apart!.scan)}>Look at it</button>
            {:else}“{verdict.scenario}” went just as it was drawn.{/if}
          </p>
        {/if}
        {#if view === 'Trace'}<TraceStrip {bench} />
        {:else if view === 'Watch'}<WatchList {bench} />
        {:else if view === 'Addresses'}<AddressTable {bench} />
        {:else if view === 'This scan'}<ScanWalk
            {bench}
            go={(line) => drawing.go(drawing.rungs.findLastIndex((r) => r.line <= line))}
          />
        {:else if view === 'Beside'}
          <Compare {bench} {draft} />
          {#if bench.partner}
            <TraceStrip {bench} />
            <BenchDrawing bench={bench.partner} label="The other program" />
          {/if}
        {:else}
          <div class="grid gap-2 md:grid-cols-2">
            {#each written(byHand) as s (s.label)}
              <div class="flex flex-col gap-1 text-sm">
                <p class="flex gap-2">
                  <span class="grow">{s.say}</span>
                  <button class="btn btn-xs" onclick={() => give(s.file, s.text)}>Save</button>
                </p>
                <textarea class="textarea h-28 w-full font-mono text-xs" readonly aria-label={s.label} value={s.text}
                ></textarea>
              </div>
            {/each}
          </div>
        {/if}
      {/if}
    </div>
  {/if}
</section>
