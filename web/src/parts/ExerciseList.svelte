<script lang="ts">
  import { api } from '../api'
  import Loading from './Loading.svelte'
  import Mark from './Mark.svelte'

  import { session } from '../state/session.svelte'
  import { spoken } from '../zone'

  const list = api.exercises()
</script>

<h1 class="mb-1 text-2xl font-semibold">Exercises</h1>
<p class="mb-5 opacity-80">Choose one, write a few rungs or lines, hand in. The {session.class?.counts === 'last' ? 'last' : 'best'} mark counts.</p>
<Loading what={list}>
  {#snippet children(exercises)}
    <ul class="grid gap-3">
      {#if exercises.length && exercises.every((e) => !e.handins)}
        <li class="rounded-box bg-base-200 p-4">
          <p class="mb-2">You have handed in nothing yet. The first exercise shows you the way: choose a point, draw a rung, press a button, hand in.</p>
          <a class="btn btn-primary btn-sm" href="#/exercise/{exercises[0].name}">Begin with “{exercises[0].title}”</a>
        </li>
      {/if}
      {#each exercises as e (e.name)}
        <li>
          <a href="#/exercise/{e.name}" class="flex items-center gap-4 rounded-box border border-base-300 px-5 py-4 hover:bg-base-200">
            <span class="flex-1">
              <span class="block font-medium">{e.title}</span>
              <span class="text-sm opacity-80">{e.topic}{e.due ? ` · due ${spoken(e.due, session.class?.timeZone)}` : ''}{e.minutes ? ` · timed, ${e.minutes} minutes` : ''}{e.handins ? ` · ${e.handins} ${e.handins === 1 ? 'hand-in' : 'hand-ins'}` : ''}</span>
            </span>
            {#if e.best !== undefined}
              <Mark earned={e.best} points={e.points} />
            {:else}
              <span class="text-sm whitespace-nowrap opacity-80">{e.reason === 'not-open' ? 'not open yet' : e.reason === 'closed' ? 'closed' : e.handins ? 'being graded' : 'not yet tried'} · {e.points} points</span>
            {/if}
          </a>
        </li>
      {:else}
        <li class="opacity-80">Your instructor has given no exercise yet.</li>
      {/each}
    </ul>
  {/snippet}
</Loading>
