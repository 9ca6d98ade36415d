<script lang="ts">
  // Grading again, an exercise's hand-ins or one: first what would change, then all of it or nothing.
  import { api, type Regraded } from '../api'
  import { Attempt } from '../state/attempt.svelte'
  import { session } from '../state/session.svelte'

  let {
    exercise,
    handin = 0,
    changed = () => {},
  }: { exercise: string; handin?: number; changed?: () => void } = $props()
  let again = $state<Regraded | null>(null)
  const attempt = new Attempt()
  async function regrade(apply = '') {
    const done = await attempt.do(async () => (again = await api.regrade(session.class!.id, exercise, handin, apply)))
    if (!done) again = null
    if (again?.applied) changed()
  }
</script>

<button class="btn btn-sm" disabled={attempt.busy} onclick={() => regrade()}
  >{attempt.busy ? 'Grading again …' : handin ? 'Grade again' : 'See what would change'}</button
>
{#if attempt.problem}<p class="mt-2 text-error" role="alert">{attempt.problem}</p>{/if}
{#if again}
  <div role="status" class="mt-2 text-sm">
    <p>
      {again.graded === 1 ? '1 hand-in' : again.graded + ' hand-ins'} by revision {again.revision}: {again.changes
        .length
        ? `${again.changes.length === 1 ? '1 mark' : again.changes.length + ' marks'} ${again.applied ? 'changed' : 'would change'}`
        : 'no mark changes'}.
    </p>
    <ul>
      {#each again.changes as c (c.handin)}<li>
          <a class="link" href="#/handin/{c.handin}">{c.person}, hand-in {c.number}</a>: {c.before} → {c.after}
        </li>{/each}
    </ul>
    {#if !again.applied && again.changes.length}<button
        class="btn btn-primary btn-sm mt-2"
        disabled={attempt.busy}
        onclick={() => regrade(again!.key)}
        >{again.changes.length === 1 ? 'Change this mark' : 'Change these marks'}</button
      >{/if}
  </div>
{/if}
