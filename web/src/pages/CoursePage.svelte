<script lang="ts">
  // A course: its sections and their exercises, put in order; given to a class; given away as a zip.
  import { api } from '../api'
  import { CoursePlan } from '../state/course.svelte'
  import CourseGiving from '../parts/CourseGiving.svelte'
  import CourseSection from '../parts/CourseSection.svelte'
  import Loading from '../parts/Loading.svelte'

  let { params }: { params: { owner: string; name: string } } = $props()
  const plan = $derived(
    Promise.all([api.course(params.owner, params.name), api.library()]).then(([c, all]) => new CoursePlan(c, all)),
  )
  let title = $state('')
</script>

<Loading what={plan}>
  {#snippet children(p)}
    <div class="mb-4 flex flex-wrap items-center gap-3">
      <a class="link text-sm" href="#/courses">Courses</a>
      <h1 class="sr-only">{p.title}</h1>
      <input
        class="input w-72 max-w-full text-xl"
        aria-label="Title of the course"
        value={p.title}
        onchange={(e) => p.retitle(e.currentTarget.value)}
      />
      <span class="text-sm opacity-80" role="status">{p.saved ? 'Saved' : 'Saving …'}</span>
      <a class="link ml-auto text-sm" href="/api/courses/{p.owner}/{p.name}/zip" download>Give as a zip</a>
    </div>
    {#if p.problem}<p role="alert" class="mb-3 alert alert-soft alert-error">{p.problem}</p>{/if}
    <div class="flex flex-col gap-4">
      {#each p.sections as s, n (n)}<CourseSection plan={p} section={s} {n} />{/each}
      <form
        class="flex items-end gap-2"
        aria-label="New section"
        onsubmit={(e) => {
          e.preventDefault()
          void p.addSection(title)
          title = ''
        }}
      >
        <label class="flex w-72 flex-col text-sm"
          >New section <input class="input input-sm w-full" required bind:value={title} /></label
        >
        <button class="btn btn-sm">Add</button>
      </form>
      <CourseGiving plan={p} />
    </div>
  {/snippet}
</Loading>
