<script lang="ts">
  // Grading again, an exercise's hand-ins or one: first what would change, then all of it or nothing.
  import { api, type Regraded } from '../api'
  import { session } from '../state/session.svelte'

  let { exercise, handin = 0, changed = () => {} }: { exercise: string; handin?: number; changed?: () => void } = $props()
  let again = $state<Regraded | null>(null)
  let problem = $state('')
  let busy = $state(false)
  async function regrade(apply = '') {
    problem = ''
    busy = true
    try {
      again = await api.regrade(session.class!.id, exercise, handin, apply)
      if (again.applied) changed()
    } catch (error) {
      problem = (error as Error).message
      again = null
    }
    busy = false
  }
</script>

<button class="btn btn-sm" disabled={busy} onclick={() => regrade()}>{busy ? 'Grading again …' : handin ? 'Grade again' : 'See what would change'}</button>
{#if problem}<p class="mt-2 text-error" role="alert">{problem}</p>{/if}
{#if again}
  <div role="status" class="mt-2 text-sm">
    <p>{again.graded === 1 ? '1 hand-in' : again.graded + ' hand-ins'} by revision {again.revision}: {again.changes.length ? `${again.changes.length === 1 ? '1 mark' : again.changes.length + ' marks'} ${again.applied ? 'changed' : 'would change'}` : 'no mark changes'}.</p>
    <ul>{#each again.changes as c (c.handin)}<li><a class="link" href="#/handin/{c.handin}">{c.person}, hand-in {c.number}</a>: {c.before} → {c.after}</li>{/each}</ul>
    {#if !again.applied && again.changes.length}<button class="btn btn-primary btn-sm mt-2" disabled={busy} onclick={() => regrade(again!.key)}>{again.changes.length === 1 ? 'Change this mark' : 'Change these marks'}</button>{/if}
  </div>
{/if}
