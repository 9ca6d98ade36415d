<script lang="ts">
  // Gives the newest revision to classes, with the day on which it is due; learners see it at once, or when the instructor says.
  import { api, type Terms } from '../api'
  import { Attempt } from '../state/attempt.svelte'
  import { session } from '../state/session.svelte'
  import type { Workshop } from '../state/workshop.svelte'
  import { fromWall } from '../zone'

  let { workshop: w }: { workshop: Workshop } = $props()
  let chosen = $state<number[]>(session.class ? [session.class.id] : [])
  let due = $state('')
  let opens = $state('')
  let published = $state(true)
  const attempt = new Attempt()
  let told = $state('')

  async function give(event: Event) {
    event.preventDefault()
    told = ''
    const given: string[] = []
    await attempt.do(async () => {
      for (const c of session.classes.filter((c) => chosen.includes(c.id))) {
        await api.give(w.owner, w.name, c.id)
        const a = (await api.assignments(c.id)).find((a) => a.name === w.name)!
        const { name: _name, title: _title, points: _points, revision: _revision, ...terms } = a
        const next: Terms = {
          ...terms,
          published,
          due: due ? fromWall(due, c.timeZone) : terms.due,
          opens: opens ? fromWall(opens, c.timeZone) : terms.opens,
        }
        await api.assign(c.id, w.name, next)
        given.push(c.name)
      }
    })
    if (given.length) told = `Revision ${w.newest} is given to ${given.join(', ')}.`
  }
</script>

<form
  class="mt-2 flex flex-col gap-2 rounded-box border border-base-300 p-3 text-sm"
  onsubmit={give}
  aria-label="Give to classes"
>
  <h3 class="font-semibold">Give revision {w.newest} to classes</h3>
  {#each session.classes as c (c.id)}
    <label class="flex items-center gap-2"
      ><input type="checkbox" class="checkbox checkbox-sm" value={c.id} bind:group={chosen} /> {c.name}</label
    >
  {/each}
  <div class="flex flex-wrap gap-3">
    <label class="flex flex-col">Opens <input type="datetime-local" class="input input-sm" bind:value={opens} /></label>
    <label class="flex flex-col">Due <input type="datetime-local" class="input input-sm" bind:value={due} /></label>
  </div>
  <label class="flex items-center gap-2"
    ><input type="checkbox" class="toggle toggle-sm" bind:checked={published} /> learners see it</label
  >
  <button class="btn self-start btn-sm" disabled={attempt.busy || !chosen.length}>Give</button>
  {#if told}<p role="status" class="font-medium">{told}</p>{/if}
  {#if attempt.problem}<p role="alert" class="text-error">{attempt.problem}</p>{/if}
</form>
