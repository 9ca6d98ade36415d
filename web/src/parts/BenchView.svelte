<script lang="ts">
  // The bench: the panel, the drawing alive, the watch list and the trace.
  import { onDestroy } from 'svelte'
  import type { Core } from '../core/core'
  import type { Draft } from '../state/draft.svelte'
  import { taken } from '../state/rehearsal.svelte'
  import { Bench, type Speed } from '../state/bench.svelte'
  import BenchPanel from './BenchPanel.svelte'
  import BenchRungs from './BenchRungs.svelte'
  import Compare from './Compare.svelte'
  import TraceStrip from './TraceStrip.svelte'
  import WatchList from './WatchList.svelte'
  import WhyView from './WhyView.svelte'

  let { draft, core, opened: ready, made, draws }: {
    draft: Draft
    core: Core
    opened: Promise<unknown>
    made: (bench: Bench | null) => void
    /** The rungs are shown here; otherwise they are alive where they are drawn. */
    draws: boolean
  } = $props()
  // svelte-ignore state_referenced_locally
  const bench = new Bench(draft.exercise, core, ready)
  // svelte-ignore state_referenced_locally
  made(bench)
  onDestroy(() => {
    bench.pause()
    bench.partner?.core.end()
    made(null)
  })
  let byHand = $state({ table: '', scenario: '' })
  let n = $state(10)
  let opened = -1
  let timer: ReturnType<typeof setTimeout>
  // A text put in from outside begins anew; one being written follows, a moment after the last key.
  $effect(() => {
    const { text, file } = draft
    if (!bench.ready) return
    if (draft.opened !== opened) {
      opened = draft.opened
      bench.loaded = false
      const scenario = taken.now?.exercise === draft.exercise.name ? taken.now : null
      void (scenario ? bench.play(file, text, scenario) : bench.start(file, text))
      return
    }
    clearTimeout(timer)
    timer = setTimeout(() => void bench.replace(file, text), 400)
  })
  function save(name: string, text: string) {
    const link = document.createElement('a')
    link.href = URL.createObjectURL(new Blob([text], { type: 'text/plain' }))
    link.download = name
    link.click()
    setTimeout(() => URL.revokeObjectURL(link.href), 1000)
  }
  const speeds: Speed[] = ['scan a second', 'a tenth', 'real', 'ten times']
  const words: Record<Speed, string> = { 'scan a second': 'One scan a second', 'a tenth': 'A tenth of real time', real: 'Real time', 'ten times': 'Ten times real time' }
</script>

<section aria-label="Bench" class="flex min-w-0 flex-col gap-4">
  {#if bench.problem}<p class="alert alert-soft" role="alert">{bench.problem}</p>{/if}
  {#if !bench.ready && !bench.problem}<p role="status">Getting the bench ready …</p>{/if}
  {#if bench.ready}
    <div class="flex flex-wrap items-center gap-2">
      {#if bench.running}
        <button class="btn btn-primary btn-sm" onclick={() => bench.pause()}>Pause</button>
      {:else}
        <button class="btn btn-primary btn-sm" disabled={!bench.loaded} onclick={() => bench.run()}>Run</button>
      {/if}
      <button class="btn btn-sm" disabled={!bench.loaded} onclick={() => bench.scans(1)}>One scan</button>
      <span class="join">
        <input type="number" class="input join-item input-sm w-18" min="1" max="100000" aria-label="How many scans" bind:value={n} />
        <button class="btn join-item btn-sm" disabled={!bench.loaded || !(n > 0)} onclick={() => bench.scans(n)}>scans</button>
      </span>
      <button class="btn btn-sm" onclick={() => { bench.pause(); void bench.start(draft.file, draft.text) }}>Restart</button>
      <button class="btn btn-sm" disabled={!bench.view} title="Loss of supply and return: everything begins anew but what is declared RETAIN; the devices stay as they are" onclick={() => bench.supply()}>Supply off and on</button>
      {#if taken.now?.exercise === draft.exercise.name}
        <button class="btn btn-sm" onclick={() => { bench.pause(); void bench.play(draft.file, draft.text, taken.now!) }}>Play “{taken.now.evidence.scenario}”</button>
      {/if}
      <select class="select select-sm w-48" aria-label="Speed" bind:value={bench.speed}>{#each speeds as s (s)}<option value={s}>{words[s]}</option>{/each}</select>
    </div>
    {#if bench.view?.forced.length}
      <p role="alert" class="sticky top-2 z-10 flex items-center gap-2 rounded-field border-2 border-error bg-base-100 p-2 text-sm">
        <span><b>Forced:</b> <span class="font-mono">{bench.view.forced.join(', ')}</span>. A hand-in never carries a force.</span>
        <button class="btn btn-sm ml-auto" onclick={() => bench.release()}>Release all</button>
      </p>
    {/if}
    {#if bench.notice}<p class="rounded-field bg-base-200 px-3 py-2 text-sm" role="status">{bench.notice}</p>{/if}
    {#if bench.view?.fault}<p class="alert alert-soft" role="alert">The program stopped in line {bench.view.line}: {bench.view.fault} Restart when it is mended.</p>{/if}
    <BenchPanel {bench} />
    {#each Object.entries(bench.instances) as [block, list] (block)}
      <label class="flex items-center gap-2 text-sm">Inside <span class="font-mono">{block}</span>, show
        <select class="select select-xs w-40 font-mono" aria-label="Inside {block}, show" value={bench.chosen[block]} onchange={(e) => bench.choose(block, e.currentTarget.value)}>{#each list as i (i)}<option>{i}</option>{/each}</select>
      </label>
    {/each}
    {#if bench.rungs.length && (draws || bench.partner)}
      <div class="grid gap-3" class:grid-cols-2={bench.partner && !draws}>
        {#if draws}<BenchRungs {bench} label="Drawing" />{/if}
        {#if bench.partner}<BenchRungs bench={bench.partner} label="The other program" />{/if}
      </div>
    {/if}
    {#if bench.why}<div><h3 class="mb-1 font-semibold">Why {bench.why.signal} was {bench.why.value} at scan {bench.why.scan}</h3><WhyView why={bench.why} rungs={bench.rungs} go={(s) => bench.look(s.scan)} /></div>{/if}
    {#if bench.view}
      <TraceStrip {bench} />
      <WatchList {bench} />
      <Compare {bench} {draft} />
      <details ontoggle={async (e) => { if (e.currentTarget.open) byHand = await bench.script() }}>
        <summary class="cursor-pointer text-sm">What was done here, as a script</summary>
        <div class="mt-1 flex gap-2"><p class="grow text-sm">A scan table: save it as a .csv and give it to celandine run --script, or to a scenario.</p><button class="btn btn-xs" onclick={() => save('by-hand.csv', byHand.table)}>Save the table</button></div>
        <textarea class="textarea mt-1 h-32 w-full font-mono text-xs" readonly aria-label="Script" value={byHand.table}></textarea>
        <div class="mt-1 flex gap-2"><p class="grow text-sm">The same as a scenario, to be put under “scenarios” in an exercise.yaml.</p><button class="btn btn-xs" onclick={() => save('by-hand.yaml', byHand.scenario)}>Save the scenario</button></div>
        <textarea class="textarea mt-1 h-32 w-full font-mono text-xs" readonly aria-label="Scenario" value={byHand.scenario}></textarea>
      </details>
    {/if}
  {/if}
</section>
