<script lang="ts">
  // What each exercise asks of the class: dates, lateness, attempts, what is seen, a time limit.
  import { api, type Assignment } from '../api'
  import { session } from '../state/session.svelte'
  import { spoken } from '../zone'
  import AddExercises from '../parts/AddExercises.svelte'
  import Loading from '../parts/Loading.svelte'
  import TermsForm from '../parts/TermsForm.svelte'
  import TableFrame from '../parts/TableFrame.svelte'

  const id = session.class!.id
  const zone = session.class!.timeZone
  let list = $state(api.assignments(id))
  let have = $state<Assignment[]>([])
  $effect(
    () =>
      void list.then(
        (all) => (have = all),
        () => {},
      ),
  ) // what is wrong is told where the list would be
  let open = $state('')
  const sees = { marks: 'marks only', first: 'the first difference', shown: 'the shown scenarios', all: 'everything' }
  const late = (a: Assignment) =>
    !a.due || a.late === 'none'
      ? ''
      : a.late === 'percent'
        ? `, then −${a.latePercent} % a day`
        : `, late until ${spoken(a.lateUntil!, zone)}`
</script>

<h1 class="mb-1 text-2xl font-semibold">Assignments</h1>
<p class="mb-4 opacity-80">Times are those of the class, {zone}.</p>
<Loading what={list}>
  {#snippet children(all)}
    <TableFrame label="Assignments">
      <table class="table table-sm">
        <thead
          ><tr class="text-base-content"
            ><th scope="col">Exercise</th><th scope="col">Opens</th><th scope="col">Due</th><th scope="col">Hand-ins</th
            ><th scope="col">Learners see</th><th scope="col">Time</th><th scope="col"
              ><span class="sr-only">Change</span></th
            ></tr
          ></thead
        >
        <tbody>
          {#each all as a (a.name)}
            <tr>
              <th scope="row" class="font-medium"
                ><a class="link" href="#/exercise/{a.name}">{a.title}</a>{#if !a.published}
                  <span class="badge badge-sm">hidden</span>{/if}</th
              >
              <td>{a.opens ? spoken(a.opens, zone) : 'open'}</td>
              <td>{a.due ? spoken(a.due, zone) + late(a) : 'never'}</td>
              <td>{a.attempts || 'any number'}</td>
              <td>{sees[a.sees]}</td>
              <td>{a.minutes ? a.minutes + ' min from Start' : 'no limit'}</td>
              <td class="whitespace-nowrap"
                ><button
                  class="btn btn-xs"
                  aria-label="Change {a.title}"
                  aria-expanded={open === a.name}
                  onclick={() => (open = open === a.name ? '' : a.name)}>Change</button
                ></td
              >
            </tr>
            {#if open === a.name}
              <tr
                ><td colspan="7" class="bg-base-200"
                  ><TermsForm
                    {id}
                    {zone}
                    assignment={a}
                    done={() => {
                      open = ''
                      list = api.assignments(id)
                    }}
                  /></td
                ></tr
              >
            {/if}
          {:else}
            <tr><td colspan="7">No exercise yet. Take some from another class, or add one from a file.</td></tr>
          {/each}
        </tbody>
      </table>
    </TableFrame>
  {/snippet}
</Loading>
<AddExercises {have} done={() => (list = api.assignments(id))} />
