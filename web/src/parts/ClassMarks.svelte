<script lang="ts">
  import { onDestroy } from 'svelte'
  import { api, followClass } from '../api'
  import { session } from '../state/session.svelte'
  import Loading from './Loading.svelte'
  import Mark from './Mark.svelte'
  import TableFrame from './TableFrame.svelte'

  const id = session.class!.id
  let marks = $state(api.marks())
  let progress = $state<{ graded: number; waiting: number } | null>(null)
  let first = true
  // The grid follows the hand-ins as they are graded; many at once are shown together.
  let timer: ReturnType<typeof setTimeout>
  const stop = followClass(id, (p) => {
    progress = p
    if (!first) {
      clearTimeout(timer)
      timer = setTimeout(async () => {
        const fresh = await api.marks().catch(() => null)
        if (fresh) marks = Promise.resolve(fresh)
      }, 300)
    }
    first = false
  })
  onDestroy(() => {
    stop()
    clearTimeout(timer)
  })
</script>

<h1 class="mb-1 text-2xl font-semibold">The class</h1>
<div class="mb-5 flex flex-wrap items-center gap-x-4 gap-y-1">
  <p class="opacity-80">The {session.class?.counts === 'last' ? 'last' : 'best'} hand-in counts. Open a mark to see it, or an exercise to see all its hand-ins.</p>
  <p role="status" class="text-sm">{#if progress}{progress.graded} graded{progress.waiting ? `, ${progress.waiting} waiting` : ''}{/if}</p>
  <span class="ml-auto flex gap-2"><a class="btn btn-sm" href="/api/classes/{id}/marks.csv" download>CSV</a><a class="btn btn-sm" href="/api/classes/{id}/marks.xlsx" download>Spreadsheet</a></span>
</div>
<Loading what={marks}>
  {#snippet children(m)}
    {#if !m.exercises.length || !m.rows.length}
      <p class="alert alert-soft mb-4" role="status"><span>
        {#if !m.exercises.length}This class has no exercises yet: <a class="link" href="#/assignments">take some from another class, or add one from a file</a>.{/if}
        {#if !m.rows.length}Nobody is enrolled yet: <a class="link" href="#/people">enrol a class list</a>.{/if}
      </span></p>
    {/if}
    <TableFrame label="Marks of the class">
      <table class="table">
        <thead>
          <tr class="align-bottom text-base-content">
            <th scope="col" class="sticky left-0 bg-base-100">Learner</th>
            {#each m.exercises as e (e.name)}
              <th scope="col" class="max-w-44 whitespace-normal"><a class="link" href="#/exercise/{e.name}/handins">{e.title}</a><br /><a class="link text-xs font-normal" href="#/insight/{e.name}">how it went<span class="sr-only">: {e.title}</span></a></th>
            {/each}
          </tr>
        </thead>
        <tbody>
          {#each m.rows as row (row.person.login)}
            <tr>
              <th scope="row" class="sticky left-0 bg-base-100 font-medium whitespace-nowrap">{row.person.name}</th>
              {#each row.marks as mark, i (i)}
                <td>
                  {#if mark.earned !== undefined}
                    <a class="hover:underline" href="#/handin/{mark.handin}"><Mark earned={mark.earned} points={m.exercises[i].points} /></a>{#if mark.byHand}<span class="block text-xs">by hand</span>{/if}{#if mark.late}<span class="block text-xs">{mark.late} d late</span>{/if}
                  {:else if mark.handins}
                    waiting
                  {:else}
                    <span class="opacity-70">–</span>
                  {/if}
                </td>
              {/each}
            </tr>
          {:else}
            <tr><td>–</td></tr>
          {/each}
        </tbody>
      </table>
    </TableFrame>
  {/snippet}
</Loading>
