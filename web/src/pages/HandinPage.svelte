<script lang="ts">
  // A hand-in: the program beside what it earned and why, in one view.
  import { PaneGroup } from 'paneforge'
  import { onDestroy } from 'svelte'
  import { MediaQuery } from 'svelte/reactivity'
  import { api, follow, type Handin } from '../api'
  import { Core, undrawn } from '../core/core'
  import { session } from '../state/session.svelte'
  import { spoken } from '../zone'
  import Bay from '../parts/Bay.svelte'
  import Divider from '../parts/Divider.svelte'
  import HandinMarks from '../parts/HandinMarks.svelte'
  import HandinProgram from '../parts/HandinProgram.svelte'
  import LookView from '../parts/LookView.svelte'
  import Loading from '../parts/Loading.svelte'
  import Review from '../parts/Review.svelte'
  import ShownProgram from '../parts/ShownProgram.svelte'

  let { params }: { params: { id: string } } = $props()

  let again = $state(0)
  let stop = () => {}
  onDestroy(() => stop())
  // The closer look comes some moments after the mark.
  let looks = 0
  let looking: ReturnType<typeof setTimeout> | undefined
  onDestroy(() => clearTimeout(looking))

  // The program, drawn beside the reasons and below; without the core the words stand alone.
  let drawn = $state.raw(undrawn)
  let core = $state.raw<Core>()
  onDestroy(() => core?.end())
  async function draw(h: Handin) {
    const program = h.programs?.[0] ?? { file: h.file, text: h.text ?? '' }
    if (!h.programs && !/\b(LADDER|FBD)\b/i.test(program.text)) return void (drawn = undrawn)
    core ??= new Core()
    drawn = await core.draw(program).catch(() => undrawn)
  }

  // A page opened before the mark is there waits for it.
  const handin = $derived.by(async () => {
    void again
    const h = await api.handin(params.id)
    stop()
    void draw(h)
    clearTimeout(looking)
    if (h.looking && looks++ < 8) looking = setTimeout(() => again++, 3000)
    if (h.state === 'waiting') stop = follow(h.id, (p) => p.state === 'graded' && again++)
    return h
  })

  // Printing does not take the page apart, with what is being written in it; on paper the panes stand one below the other.
  const wide = new MediaQuery('print, (min-width: 1000px)')
  const back = $derived(session.teaches ? '/handins' : '')
</script>

<Loading what={handin}>
  {#snippet children(h)}
    {#snippet head()}
      <div class="mb-2 flex flex-wrap items-baseline gap-x-4">
        <a class="link text-sm" href="#/exercise/{h.exercise}{back}"
          >{back ? 'All hand-ins to' : 'Back to'} “{h.title}”</a
        >
        <h1 class="text-xl font-semibold">
          {h.person.login === session.person?.login ? 'Hand-in' : h.person.name + ', hand-in'}
          {h.number}
        </h1>
        {#if h.earned !== undefined}
          <p class="ml-auto text-2xl font-semibold tabular-nums" data-testid="mark">
            {h.counted ?? h.earned} <span class="text-lg font-normal opacity-80">of {h.points}</span>
          </p>
        {/if}
      </div>
      <p class="mb-2 hidden text-sm print:block">
        {h.person.name}, {session.class?.name}, handed in {spoken(h.handedIn, session.class?.timeZone)}
      </p>
      {#key h.id}<Review handin={h} changed={() => again++} />{/key}
      {#if h.state === 'waiting'}
        <p role="status" class="alert">This hand-in is being graded. The mark appears here by itself.</p>
      {/if}
    {/snippet}
    {#snippet program()}{#if h.programs && core}<ShownProgram programs={h.programs} {core} />
        <details class="mt-4 text-sm">
          <summary>What was handed in, as text</summary>
          <pre class="overflow-x-auto rounded-box bg-base-200 p-3 font-mono text-xs">{h.text}</pre>
        </details>
      {:else}<HandinProgram handin={h} {drawn} changed={() => again++} />{/if}{/snippet}
    {#snippet marks()}<LookView handin={h} />{#if h.result}<HandinMarks
          handin={h}
          {drawn}
          play={!back}
        />{/if}{/snippet}

    {#if wide.current}
      <div class="shrink-0 border-b border-base-300 px-4 pt-2">{@render head()}</div>
      <PaneGroup direction="horizontal" autoSaveId="celandine.handin" class="min-h-0 grow">
        <Bay name="Program" size={45} order={1} least={20}>
          <div class="min-h-0 grow overflow-y-auto px-4 py-3">{@render program()}</div>
        </Bay>
        <Divider upright label="Between program and marks" />
        <Bay name="Marks" size={55} order={2} least={25}>
          <div class="min-h-0 grow overflow-y-auto px-4 py-3">{@render marks()}</div>
        </Bay>
      </PaneGroup>
    {:else}
      <div class="min-h-0 grow overflow-y-auto px-4 py-4 print:overflow-visible print:p-0">
        {@render head()}
        {@render marks()}
        <div class="mt-8">{@render program()}</div>
      </div>
    {/if}
  {/snippet}
</Loading>
