<script lang="ts">
  // The terms of one assignment.
  import { api, type Assignment, type Terms } from '../api'
  import { Attempt } from '../state/attempt.svelte'
  import { fromWall, toWall } from '../zone'

  let { id, zone, assignment, done }: { id: number; zone: string; assignment: Assignment; done: () => void } = $props()
  // svelte-ignore state_referenced_locally
  const { name, title, points, revision, ...terms } = assignment
  let t = $state<Terms>(terms)
  // svelte-ignore state_referenced_locally
  let wall = $state({ opens: toWall(t.opens, zone), due: toWall(t.due, zone), lateUntil: toWall(t.lateUntil, zone) })
  const attempt = new Attempt()

  async function save(event: Event) {
    event.preventDefault()
    const saved = await attempt.do(() => {
      return api.assign(id, assignment.name, {
        ...t,
        latePercent: t.late === 'percent' ? t.latePercent : 0,
        opens: fromWall(wall.opens, zone),
        due: fromWall(wall.due, zone),
        lateUntil: t.late === 'none' ? undefined : fromWall(wall.lateUntil, zone),
      })
    })
    if (saved) done()
  }
</script>

<form
  class="flex flex-wrap items-end gap-x-5 gap-y-3 py-2 text-sm"
  onsubmit={save}
  aria-label="Terms of {assignment.title}"
>
  <label class="flex flex-col"
    >Opens <input type="datetime-local" class="input input-sm" bind:value={wall.opens} /></label
  >
  <label class="flex flex-col">Due <input type="datetime-local" class="input input-sm" bind:value={wall.due} /></label>
  <label class="flex flex-col"
    >Late hand-ins
    <select class="select select-sm w-44" bind:value={t.late}
      ><option value="none">are not taken</option><option value="until">are taken until</option><option value="percent"
        >lose percent a day</option
      ></select
    >
  </label>
  {#if t.late === 'percent'}<label class="flex flex-col"
      >Percent a day <input
        type="number"
        min="1"
        max="100"
        class="input input-sm w-24"
        bind:value={t.latePercent}
      /></label
    >{/if}
  {#if t.late !== 'none'}<label class="flex flex-col"
      >Late until <input type="datetime-local" class="input input-sm" bind:value={wall.lateUntil} /></label
    >{/if}
  <label class="flex flex-col"
    >Hand-ins (0: any) <input
      type="number"
      min="0"
      max="1000"
      class="input input-sm w-28"
      bind:value={t.attempts}
    /></label
  >
  <label class="flex flex-col"
    >Learners see
    <select class="select select-sm w-48" bind:value={t.sees}
      ><option value="marks">marks only</option><option value="first">the first difference</option><option value="shown"
        >the shown scenarios</option
      ><option value="all">everything</option></select
    >
  </label>
  <label class="flex flex-col"
    >Minutes from Start (0: no limit) <input
      type="number"
      min="0"
      max="10080"
      class="input input-sm w-28"
      bind:value={t.minutes}
    /></label
  >
  <label class="flex items-center gap-2 pb-1"
    ><input type="checkbox" class="checkbox checkbox-sm" bind:checked={t.tellMistake} />They read what is said of a
    known mistake</label
  >
  <label class="flex items-center gap-2 pb-1"
    ><input type="checkbox" class="checkbox checkbox-sm" bind:checked={t.tellDifference} />They see the shortest script
    that still differs</label
  >
  <label class="flex items-center gap-2 pb-1"
    ><input type="checkbox" class="checkbox checkbox-sm" bind:checked={t.published} />Learners see the exercise</label
  >
  <button class="btn btn-primary btn-sm">Save</button>
  {#if attempt.problem}<p class="w-full text-error" role="alert">{attempt.problem}</p>{/if}
</form>
