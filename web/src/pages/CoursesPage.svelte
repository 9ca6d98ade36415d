<script lang="ts">
  // An instructor's courses: made, opened, taken from a zip.
  import { api } from '../api'
  import { base64Of } from '../base64'
  import { nameFor } from '../names'
  import { Attempt } from '../state/attempt.svelte'
  import { session } from '../state/session.svelte'
  import { spoken } from '../zone'
  import Loading from '../parts/Loading.svelte'

  let list = $state(api.courses())
  let title = $state('')
  const attempt = new Attempt()
  const me = session.person!.login

  async function make(event: Event) {
    event.preventDefault()
    const name = nameFor(title)
    const made = await attempt.do(() => api.saveCourse(me, name, { version: 0, title, sections: [] }))
    if (made) location.hash = `#/courses/${me}/${name}`
  }
  async function upload(files: FileList | null) {
    const file = files?.[0]
    if (!file) return
    const done = await attempt.do(async () => api.importCourse(base64Of(new Uint8Array(await file.arrayBuffer()))))
    if (done) list = api.courses()
  }
</script>

<div class="mb-4 flex flex-wrap items-center gap-3">
  <h1 class="text-2xl font-semibold">Courses</h1>
  <a class="link" href="#/exercises">Exercises</a>
</div>
<Loading what={list}>
  {#snippet children(all)}
    <ul class="mb-6 grid gap-2 md:grid-cols-2" aria-label="Courses">
      {#each all as c (c.owner + '/' + c.name)}
        <li class="rounded-box border border-base-300 px-4 py-2.5">
          <a class="link font-medium" href="#/courses/{c.owner}/{c.name}">{c.title}</a>
          <p class="text-sm opacity-80">
            {c.sections.reduce((n, s) => n + s.exercises.length, 0)} exercises in {c.sections.length} sections, saved {spoken(
              c.saved,
            )}{c.owner === me ? '' : `, of ${c.owner}`}
          </p>
        </li>
      {:else}<li class="opacity-80">
          No course yet. A course is exercises in sections, in the order in which you teach them.
        </li>
      {/each}
    </ul>
  {/snippet}
</Loading>
<form class="flex flex-wrap items-end gap-3" aria-label="New course" onsubmit={make}>
  <label class="flex w-72 flex-col text-sm"
    >Title <input class="input input-sm w-full" required bind:value={title} /></label
  >
  <button class="btn btn-primary btn-sm" disabled={attempt.busy}>New course</button>
  <label class="flex items-center gap-2 text-sm"
    >or from a zip <input
      type="file"
      accept=".zip,application/zip"
      class="file-input file-input-sm"
      aria-label="A zip of a course"
      onchange={(e) => upload(e.currentTarget.files)}
    /></label
  >
</form>
{#if attempt.problem}<p role="alert" class="mt-2 text-sm whitespace-pre-line text-error">{attempt.problem}</p>{/if}
