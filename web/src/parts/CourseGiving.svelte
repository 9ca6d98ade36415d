<script lang="ts">
  // Copies a course to a class: its exercises behind those that the class has, hidden until they are assigned.
  import { api } from '../api'
  import { Attempt } from '../state/attempt.svelte'
  import type { CoursePlan } from '../state/course.svelte'
  import { session } from '../state/session.svelte'

  let { plan: p }: { plan: CoursePlan } = $props()
  let id = $state(session.class?.id ?? 0)
  let told = $state('')
  const attempt = new Attempt()
  async function give() {
    told = ''
    if (await attempt.do(() => api.giveCourse(p.owner, p.name, id)))
      told = `${session.classes.find((c) => c.id === id)?.name} has the course. Its exercises are hidden until you assign them.`
  }
  async function remove() {
    if (await attempt.do(() => api.removeCourse(p.owner, p.name))) location.hash = '#/courses'
  }
</script>

<div class="flex flex-wrap items-end gap-3">
  <label class="flex flex-col text-sm"
    >Copy to a class <select class="select select-sm w-64" bind:value={id}
      >{#each session.classes as c (c.id)}<option value={c.id}>{c.name}</option>{/each}</select
    ></label
  >
  <button class="btn btn-sm" disabled={attempt.busy || !id} onclick={give}>Copy</button>
  <button class="btn ml-auto btn-ghost btn-sm" onclick={remove}>Remove the course; its exercises stay</button>
</div>
{#if told}<p role="status" class="text-sm font-medium">
    {told} <a class="link" href="#/assignments">Assignments</a>
  </p>{/if}
{#if attempt.problem}<p role="alert" class="text-sm text-error">{attempt.problem}</p>{/if}
