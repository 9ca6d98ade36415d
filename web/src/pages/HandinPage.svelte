<script lang="ts">
  import { onDestroy } from 'svelte'
  import { api, follow, type Handin, type ScenarioMark } from '../api'
  import { Core, type Rung } from '../core/core'
  import { session } from '../state/session.svelte'
  import DrawnHandin from '../parts/DrawnHandin.svelte'
  import Diagnostics from '../parts/Diagnostics.svelte'
  import Editor from '../parts/Editor.svelte'
  import Loading from '../parts/Loading.svelte'
  import Mark from '../parts/Mark.svelte'
  import Review from '../parts/Review.svelte'
  import ScenarioDetail from '../parts/ScenarioDetail.svelte'

  let { params }: { params: { id: string } } = $props()

  let again = $state(0)
  let stop = () => {}
  onDestroy(() => stop())

  // The rungs of a ladder, drawn beside the reasons and below; without the core the words stand alone.
  let rungs = $state<Rung[]>([])
  let core: Core | undefined
  onDestroy(() => core?.end())
  async function draw(h: Handin) {
    if (!h.text || !/ladder/i.test(h.text)) return void (rungs = [])
    core ??= new Core()
    rungs = await core.draw({ file: h.file, text: h.text }).then(
      (d) => d.rungs,
      () => [],
    )
  }

  // A page opened before the mark is there waits for it.
  const handin = $derived.by(async () => {
    void again
    const h = await api.handin(params.id)
    stop()
    void draw(h)
    if (h.state === 'waiting') stop = follow(h.id, (p) => p.state === 'graded' && again++)
    return h
  })

  let chosen = $state<string | null>(null)
  const lost = (s: ScenarioMark) => s.earned < s.points
  /** The scenario to look at: the one chosen, else the first shown that lost marks. */
  function current(h: Handin): ScenarioMark | undefined {
    const all = h.result?.scenarios ?? []
    return (
      all.find((s) => s.name === chosen) ??
      all.find((s) => lost(s) && !s.hidden) ??
      all.find((s) => !s.hidden) ??
      all[0]
    )
  }
  const evidence = (h: Handin, name: string) => h.evidence?.find((e) => e.scenario === name)
  const back = $derived(session.teaches ? '/handins' : '')
</script>

<Loading what={handin}>
  {#snippet children(h)}
    {@const scenario = current(h)}
    <p class="mb-1 text-sm">
      <a class="link" href="#/exercise/{h.exercise}{back}">{back ? 'All hand-ins to' : 'Back to'} “{h.title}”</a>
    </p>
    <div class="mb-5 flex flex-wrap items-center gap-x-6 gap-y-2">
      <div>
        <h1 class="text-2xl font-semibold">
          {h.person.login === session.person?.login ? 'Hand-in' : h.person.name + ', hand-in'}
          {h.number}
        </h1>
        <p class="font-mono text-sm opacity-80">{h.file}</p>
      </div>
      {#if h.earned !== undefined}
        <p class="ml-auto text-3xl font-semibold tabular-nums" data-testid="mark">
          {h.counted ?? h.earned} <span class="text-xl font-normal opacity-80">of {h.points}</span>
        </p>
      {/if}
    </div>
    {#key h.id}<Review handin={h} changed={() => again++} />{/key}
    {#if h.state === 'waiting'}
      <p role="status" class="alert">This hand-in is being graded. The mark appears here by itself.</p>
    {:else if h.result}
      {#if h.result.diagnostics.length}
        <section class="mb-5" aria-label="Messages">
          {#if h.result.diagnostics.some((d) => d.severity === 'error')}
            <p class="mb-1">The program has errors, so no scenario could run.</p>
          {/if}
          <Diagnostics list={h.result.diagnostics} />
        </section>
      {/if}
      {@const takenOff = h.result.findings.filter((f) => f.deduct > 0)}
      {#if takenOff.length}
        <section class="mb-5" aria-label="Points taken off">
          <ul class="flex flex-col gap-1">
            {#each takenOff as f (f.rule)}
              <li class="border-l-4 border-warning pl-3">
                <span class="font-semibold tabular-nums">−{f.deduct}</span>
                {f.say}
              </li>
            {/each}
          </ul>
        </section>
      {/if}
      <div class="grid grid-cols-[minmax(0,1fr)] gap-6 lg:grid-cols-[18rem_minmax(0,1fr)]">
        <nav aria-label="Scenarios">
          <ul class="flex flex-col gap-1">
            {#each h.result.scenarios as s (s.name)}
              <li>
                <button
                  class="flex w-full flex-col rounded-field border-l-4 px-3 py-2 text-left hover:bg-base-200 {s ===
                  scenario
                    ? 'border-primary bg-base-200'
                    : 'border-transparent'}"
                  aria-current={s === scenario}
                  onclick={() => (chosen = s.name)}
                >
                  <span class="font-medium">{s.name}</span>
                  <span class="text-sm"><Mark earned={s.earned} points={s.points} /></span>
                </button>
              </li>
            {/each}
          </ul>
        </nav>
        {#if scenario}
          {#key scenario.name}
            <ScenarioDetail
              mark={scenario}
              evidence={evidence(h, scenario.name)}
              {rungs}
              exercise={back ? '' : h.exercise}
              ran={!h.result.diagnostics.some((d) => d.severity === 'error')}
            />
          {/key}
        {/if}
      </div>
      <section class="mt-8" aria-label="What was handed in">
        <h2 class="mb-2 font-semibold">What was handed in</h2>
        {#if rungs.length}<div class="mb-4"><DrawnHandin handin={h} {rungs} changed={() => again++} /></div>{/if}
        <div class="max-h-96 overflow-auto">
          <Editor
            text={h.text ?? ''}
            diagnostics={h.result.diagnostics}
            readonly
            label="The program that was handed in"
          />
        </div>
      </section>
    {/if}
  {/snippet}
</Loading>
