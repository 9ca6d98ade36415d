<script lang="ts">
  // An exercise: fetched, its draft and its core made ready, and the workbench put around them.
  import { onDestroy } from 'svelte'
  import { api, Problem, type Exercise } from '../api'
  import { Core, Loading as Parts, type Opened } from '../core/core'
  import { Draft } from '../state/draft.svelte'
  import { Drawing } from '../state/drawing.svelte'
  import { session } from '../state/session.svelte'
  import { spoken } from '../zone'
  import Loading from '../parts/Loading.svelte'
  import SheetBench from '../parts/SheetBench.svelte'
  import Workbench from '../parts/Workbench.svelte'

  let { params }: { params: { name: string } } = $props()
  // The core looks at the text as it is written; without it the service still does when asked.
  const parts = new Parts()
  const core = new Core(parts)
  /** How often the core was started again: the bench then begins anew. */
  let restarts = $state(0)
  parts.restarted = () => restarts++
  onDestroy(() => {
    core.end()
    void opened.then(
      ({ draft }) => draft.end(),
      () => {},
    )
  })
  let panel = $state<Promise<Opened>>(Promise.resolve({ devices: {} }))
  let unloaded = $state(false)
  let begun = $state(0)
  /** The clock, for an exercise that is timed. */
  let now = $state(Date.now())
  const clock = setInterval(() => (now = Date.now()), 1000)
  onDestroy(() => clearInterval(clock))
  function remaining(ends: string) {
    const s = Math.max(0, Math.round((Date.parse(ends) - now) / 1000))
    return s ? `${Math.floor(s / 60)}:${String(s % 60).padStart(2, '0')} left` : 'over'
  }
  /** A timed exercise is not asked for before it is begun: that begins with a press. */
  async function found(name: string): Promise<Exercise> {
    const known = session.teaches ? undefined : (await api.exercises()).find((e) => e.name === name)
    if (known?.reason === 'not-started') throw new Problem(403, known.refused ?? '', known.reason)
    return api.exercise(name)
  }
  const opened = $derived(
    (void begun, found(params.name)).then((e) => {
      panel = core.open(e)
      // The same exercise in another class is another draft.
      const other = session.class && session.class.id !== session.classes[0]?.id ? '.' + session.class.id : ''
      const draft = new Draft(e, (session.person?.login ?? '') + other)
      // At once: what is asked of the core waits in it until it is loaded, and nobody types into a view that is about to change.
      if (e.kind === 'write') draft.core = core
      void panel.catch(() => {
        unloaded = true
        draft.core = null
      })
      return { draft, drawing: new Drawing(draft, core) }
    }),
  )
</script>

{#snippet conditions(e: Exercise)}
  {@const left = e.attempts ? e.attempts - e.handins : null}
  {#if e.due || left !== null || e.ends || e.refused}
    <p class="flex flex-wrap gap-x-4 text-sm" class:font-medium={!!e.refused}>
      {#if e.refused && !session.teaches}<span>{e.refused}</span>{/if}
      {#if e.due}<span>Due {spoken(e.due, session.class?.timeZone)}</span>{/if}
      {#if left !== null}<span>{left} {left === 1 ? 'hand-in' : 'hand-ins'} left</span>{/if}
      {#if e.ends}<span
          >Your time ends at {spoken(e.ends, session.class?.timeZone)}:
          <b class="tabular-nums">{remaining(e.ends)}</b></span
        >{/if}
    </p>
  {/if}
{/snippet}

{#await opened catch error}
  {#if error.code === 'not-started'}
    <div class="mx-auto mt-10 max-w-md rounded-box border border-base-300 p-6">
      <h1 class="mb-2 text-xl font-semibold">A timed exercise</h1>
      <p class="mb-4">{error.message}</p>
      <button
        class="btn btn-primary"
        onclick={async () => {
          await api.start(params.name)
          begun++
        }}>Start</button
      >
    </div>
  {/if}
{/await}
{#key params.name}
  <Loading
    what={opened.catch((e) => {
      if (e.code === 'not-started') return new Promise<never>(() => {})
      throw e
    })}
  >
    {#snippet children({ draft, drawing })}
      {#snippet terms()}{@render conditions(draft.exercise)}{/snippet}
      {#if draft.exercise.kind === 'predict'}<SheetBench {draft} {core} {terms} />
      {:else}<Workbench {draft} {drawing} {core} opened={panel} {unloaded} {restarts} {terms} />{/if}
    {/snippet}
  </Loading>
{/key}
