<script lang="ts">
  import { api } from '../api'
  import Loading from './Loading.svelte'
  import Mark from './Mark.svelte'

  import { byTopic, progressOf } from '../state/grid'
  import { session } from '../state/session.svelte'
  import { spoken } from '../zone'

  const list = api.exercises()
</script>

<h1 class="mb-1 text-2xl font-semibold">Exercises</h1>
<p class="mb-5 opacity-80">
  Choose one, write a few rungs or lines, hand in. The {session.class?.counts === 'last' ? 'last' : 'best'} mark counts.
</p>
<Loading what={list}>
  {#snippet children(exercises)}
    {@const progress = progressOf(exercises)}
    {#if exercises.some((e) => e.handins)}
      <div class="mb-5 flex flex-wrap items-center gap-x-5 gap-y-2 rounded-box bg-base-200 px-5 py-3">
        <div class="min-w-56 grow">
          <p class="mb-1 text-sm">
            <b>{progress.whole} of {exercises.length}</b> exercises whole, {progress.earned} of {progress.points} points
          </p>
          <progress
            class="progress w-full progress-primary"
            value={progress.earned}
            max={progress.points}
            aria-label="Points so far"
          ></progress>
        </div>
        {#if progress.next}<a class="btn btn-primary btn-sm" href="#/exercise/{progress.next.name}"
            >Next: {progress.next.title}{progress.next.due
              ? `, due ${spoken(progress.next.due, session.class?.timeZone)}`
              : ''}</a
          >{/if}
      </div>
    {/if}
    {#if exercises.length && exercises.every((e) => !e.handins)}
      <div class="mb-4 rounded-box bg-base-200 p-4">
        <p class="mb-2">
          You have handed in nothing yet. The first exercise shows you the way: choose a point, draw a rung, press a
          button, hand in.
        </p>
        <a class="btn btn-primary btn-sm" href="#/exercise/{exercises[0].name}">Begin with “{exercises[0].title}”</a>
      </div>
    {/if}
    {#each byTopic(exercises) as s (s.topic)}
      <section aria-label={s.topic} class="mb-4">
        <h2 class="mb-1.5 text-sm font-semibold first-letter:capitalize">{s.topic}</h2>
        <ul class="grid gap-2 md:grid-cols-2">
          {#each s.exercises as e (e.name)}
            <li>
              <a
                href="#/exercise/{e.name}"
                class="flex items-center gap-4 rounded-box border border-base-300 px-5 py-2.5 hover:bg-base-200"
              >
                <span class="flex-1">
                  <span class="block font-medium">{e.title}</span>
                  <span class="text-sm opacity-80"
                    >{[
                      e.due && `due ${spoken(e.due, session.class?.timeZone)}`,
                      e.minutes && `timed, ${e.minutes} minutes`,
                      e.handins && `${e.handins} ${e.handins === 1 ? 'hand-in' : 'hand-ins'}`,
                    ]
                      .filter(Boolean)
                      .join(' · ')}</span
                  >
                </span>
                {#if e.best !== undefined}
                  <Mark earned={e.best} points={e.points} />
                {:else}
                  <span class="text-sm whitespace-nowrap opacity-80"
                    >{e.reason === 'not-open'
                      ? 'not open yet'
                      : e.reason === 'closed'
                        ? 'closed'
                        : e.handins
                          ? 'being graded'
                          : 'not yet tried'} · {e.points} points</span
                  >
                {/if}
              </a>
            </li>
          {/each}
        </ul>
      </section>
    {:else}
      <p class="opacity-80">Your instructor has given no exercise yet.</p>
    {/each}
  {/snippet}
</Loading>
