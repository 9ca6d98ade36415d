<script lang="ts">
  import type { Evidence, ScenarioMark, SignalMark, Solution } from '../api'
  import { taken } from '../state/rehearsal.svelte'
  import { wordFor } from '../trace'
  import type { Drawn } from '../core/core'
  import PlayedDrawing from './PlayedDrawing.svelte'
  import TimingDiagram from './TimingDiagram.svelte'
  import WhyView from './WhyView.svelte'

  let {
    mark,
    evidence,
    ran,
    drawn,
    programs,
    exercise = '',
  }: {
    mark: ScenarioMark
    evidence?: Evidence
    ran: boolean
    drawn?: Drawn
    /** Of a prediction: the program that was predicted. */
    programs?: Solution[]
    /** Where it can be played; '' where it cannot. */
    exercise?: string
  } = $props()
  let playing = $state(false)

  let diagram = $state<TimingDiagram>()

  /** Takes the scenario to the bench, with the text that is being written. */
  function rehearse() {
    const scans = mark.signals.map((s) => s.difference?.scan).filter((s) => s !== undefined)
    taken.now = { exercise, evidence: evidence!, until: scans.length ? Math.min(...scans) : undefined }
    location.hash = '#/exercise/' + exercise
  }

  function words(s: SignalMark): string {
    if (s.missing) return s.missing[0].toUpperCase() + s.missing.slice(1) + '.'
    const d = s.difference
    if (!d) return s.signal + ' could not be compared to the end.'
    const costs = s.still && !mark.still ? ' Doing nothing would have been right here, so this takes marks away.' : ''
    if (s.drawn)
      return `At scan ${d.scan} (${d.time}), ${s.signal} is ${wordFor(d.expected)}; ${wordFor(d.actual)} was drawn.${costs}`
    return `At scan ${d.scan} (${d.time}), ${s.signal} should be ${wordFor(d.expected)} and was ${wordFor(d.actual)}.${costs}`
  }
</script>

<section aria-label={mark.name} class="flex min-w-0 flex-col gap-3">
  <h2 class="text-lg font-semibold">{mark.name}</h2>
  {#if mark.fault}
    <p class="alert alert-soft" role="alert">
      The run stopped at scan {mark.fault.scan}, in line {mark.fault.line}: {mark.fault.message}
    </p>
  {/if}
  {#if mark.hidden}
    <p class="opacity-80">
      {mark.earned === mark.points
        ? 'All as expected. What this scenario does is not shown.'
        : 'Something differs here. What this scenario does is not shown: read the task again, ' +
          'sentence by sentence, and ask of each whether your program does it.'}
    </p>
  {:else if !ran}
    <p class="opacity-80">It runs once the errors above are mended.</p>
  {:else}
    {#if mark.still}<p class="text-sm opacity-80">
        Nothing may happen here: the scenario counts whole or not at all.
      </p>{/if}
    {#if mark.note}<p class="border-l-4 border-warning pl-3">{mark.note}</p>{/if}
    <ul class="flex flex-col gap-1">
      {#each mark.signals.filter((s) => !s.ok) as s (s.signal)}
        <li class="flex flex-col gap-2 border-l-4 border-error pl-3 text-sm">
          <span>{words(s)}</span>{#if s.why}<WhyView why={s.why} {drawn} go={(step) => diagram?.go(step.scan)} />{/if}
        </li>
      {:else}
        {#if mark.signals.length}<li class="border-l-4 border-success pl-3">
            {programs ? 'Just so.' : 'Every graded signal was as expected.'}
          </li>{/if}
      {/each}
    </ul>
    {#if evidence && exercise}
      <button class="btn btn-sm self-start" onclick={() => (programs ? (playing = !playing) : rehearse())}
        >{playing ? 'Put it away' : programs ? 'Play it beside the drawing' : 'Play it on the bench'}</button
      >
    {/if}
    {#if playing && evidence && programs}<PlayedDrawing {exercise} program={programs[0]} {evidence} {mark} />{/if}
    {#if evidence}
      <TimingDiagram bind:this={diagram} {evidence} {mark} predicted={!!programs} />
    {/if}
  {/if}
</section>
