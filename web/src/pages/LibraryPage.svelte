<script lang="ts">
  // An instructor's exercises: own, shared, the class's; and where a new one begins.
  import Plus from '@lucide/svelte/icons/plus'
  import { api, type Owned } from '../api'
  import { session } from '../state/session.svelte'
  import { found, stateOf, topicsOf, type Wanted } from '../state/library'
  import { spoken } from '../zone'
  import ExerciseMenu from '../parts/ExerciseMenu.svelte'
  import Loading from '../parts/Loading.svelte'
  import NewExercise from '../parts/NewExercise.svelte'
  import TableFrame from '../parts/TableFrame.svelte'

  let list = $state(api.library())
  let beginning = $state(false)
  let wanted = $state<Wanted>({ letters: '', topic: '', whose: 'all' })
  const me = session.person!.login
  const whose: [Wanted['whose'], string][] = [
    ['all', 'All'],
    ['own', 'My own'],
    ['shared', 'Shared with me'],
    ['class', 'This class’s'],
  ]
  const shown = (all: Owned[]) => found(all, wanted, me, session.class?.name ?? '')
  const again = () => (list = api.library())
</script>

<div class="mb-4 flex flex-wrap items-center gap-3">
  <h1 class="text-2xl font-semibold">Exercises</h1>
  <a class="link" href="#/courses">Courses</a>
  <button class="btn btn-primary btn-sm ml-auto" aria-expanded={beginning} onclick={() => (beginning = !beginning)}
    ><Plus size={16} /> New exercise</button
  >
</div>
{#if beginning}<NewExercise end={() => (beginning = false)} />{/if}
<Loading what={list}>
  {#snippet children(all)}
    <div class="mb-3 flex flex-wrap items-center gap-2">
      <input
        type="search"
        class="input input-sm w-56"
        aria-label="Search"
        placeholder="Search"
        bind:value={wanted.letters}
      />
      <select class="select select-sm w-44" aria-label="Topic" bind:value={wanted.topic}>
        <option value="">All topics</option>
        {#each topicsOf(all) as t (t)}<option value={t}>{t}</option>{/each}
      </select>
      <div role="group" aria-label="Whose" class="join">
        {#each whose as [value, words] (value)}
          <button
            class="btn join-item btn-sm"
            class:btn-active={wanted.whose === value}
            aria-pressed={wanted.whose === value}
            onclick={() => (wanted.whose = value)}>{words}</button
          >
        {/each}
      </div>
      <span class="text-sm opacity-80" role="status">{shown(all).length} of {all.length}</span>
    </div>
    <TableFrame label="Exercises">
      <table class="table table-sm">
        <thead
          ><tr class="text-base-content"
            ><th scope="col">Exercise</th><th scope="col">Topic</th><th scope="col">Languages</th><th scope="col"
              >State</th
            ><th scope="col" class="text-right">Strength</th><th scope="col">Changed</th><th scope="col">Classes</th><th
              scope="col"><span class="sr-only">What to do</span></th
            ></tr
          ></thead
        >
        <tbody>
          {#each shown(all) as e (e.owner + '/' + e.name)}
            <tr>
              <th scope="row" class="font-medium"
                ><a class="link" href="#/workshop/{e.owner}/{e.name}">{e.title || e.name}</a>
                <span class="block font-mono text-xs font-normal opacity-80"
                  >{e.owner === me ? e.name : `${e.name} of ${e.ownerName}`}</span
                ></th
              >
              <td>{e.topic}</td>
              <td>{e.languages}</td>
              <td
                ><span class="badge badge-sm" class:badge-primary={e.writing}>{stateOf(e)}</span>{#if e.shared}<span
                    class="block text-xs opacity-80">shared with {e.shared}</span
                  >{/if}</td
              >
              <td class="text-right tabular-nums">{e.strength === undefined ? '–' : `${e.strength} %`}</td>
              <td class="whitespace-nowrap">{spoken(e.changed)}</td>
              <td>{e.classes.join(', ') || '–'}</td>
              <td class="text-right"><ExerciseMenu exercise={e} done={again} /></td>
            </tr>
          {:else}
            <tr
              ><td colspan="8"
                >{all.length
                  ? 'No exercise is like that.'
                  : 'You have no exercise yet. New exercise begins one: blank, or from a lesson.'}</td
              ></tr
            >
          {/each}
        </tbody>
      </table>
    </TableFrame>
  {/snippet}
</Loading>
