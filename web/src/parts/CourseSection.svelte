<script lang="ts">
  // A section of a course: its exercises are moved by dragging, by the buttons, or by Alt and an arrow.
  import ArrowDown from '@lucide/svelte/icons/arrow-down'
  import ArrowUp from '@lucide/svelte/icons/arrow-up'
  import X from '@lucide/svelte/icons/x'
  import type { Section } from '../api'
  import type { CoursePlan } from '../state/course.svelte'
  import { stateOf } from '../state/library'

  let { plan: p, section: s, n }: { plan: CoursePlan; section: Section; n: number } = $props()
  let more = $state('')
  const kind = 'application/x-celandine-exercise'

  function drop(event: DragEvent, before: string | null) {
    const name = event.dataTransfer?.getData(kind)
    if (!name) return
    event.preventDefault()
    event.stopPropagation()
    void p.put(name, n, before)
  }
  function key(event: KeyboardEvent, at: number) {
    const by = { ArrowUp: -1, ArrowDown: 1 }[event.key] as 1 | -1 | undefined
    if (!event.altKey || !by) return
    event.preventDefault()
    void p.move(n, at, by)
  }
</script>

<section
  aria-label={s.title}
  class="rounded-box border border-base-300 p-3"
  ondragover={(e) => e.preventDefault()}
  ondrop={(e) => drop(e, null)}
>
  <div class="mb-2 flex flex-wrap items-center gap-2">
    <input
      class="input input-sm w-72 max-w-full font-semibold"
      aria-label="Title of the section"
      value={s.title}
      onchange={(e) => p.renameSection(n, e.currentTarget.value)}
    />
    <button
      class="btn btn-square btn-xs"
      aria-label="Move {s.title} up"
      disabled={n === 0}
      onclick={() => p.moveSection(n, -1)}><ArrowUp size={14} /></button
    >
    <button
      class="btn btn-square btn-xs"
      aria-label="Move {s.title} down"
      disabled={n === p.sections.length - 1}
      onclick={() => p.moveSection(n, 1)}><ArrowDown size={14} /></button
    >
    <button class="btn ml-auto btn-ghost btn-xs" onclick={() => p.removeSection(n)}>Remove the section</button>
  </div>
  <ol class="flex flex-col gap-1">
    {#each s.exercises as name, at (name)}
      {@const e = p.of(name)}
      <li
        class="flex items-center gap-2 rounded-field px-1 text-sm hover:bg-base-200"
        draggable="true"
        ondragstart={(event) => event.dataTransfer?.setData(kind, name)}
        ondrop={(event) => drop(event, name)}
      >
        <button
          class="btn btn-square btn-ghost btn-xs"
          aria-label="Move {name} up"
          onclick={() => p.move(n, at, -1)}
          onkeydown={(event) => key(event, at)}><ArrowUp size={12} /></button
        >
        <button
          class="btn btn-square btn-ghost btn-xs"
          aria-label="Move {name} down"
          onclick={() => p.move(n, at, 1)}
          onkeydown={(event) => key(event, at)}><ArrowDown size={12} /></button
        >
        {#if e}<a class="link" href="#/workshop/{e.owner}/{e.name}">{e.title}</a>
          <span class="badge badge-sm">{stateOf(e)}</span>
        {:else}<span class="text-error">{name} is not among the owner’s exercises</span>{/if}
        <button
          class="btn ml-auto btn-square btn-ghost btn-xs"
          aria-label="Take {name} out"
          onclick={() => p.remove(n, name)}><X size={14} /></button
        >
      </li>
    {:else}<li class="text-sm opacity-80">No exercise in this section yet.</li>{/each}
  </ol>
  <div class="mt-2 flex flex-wrap items-end gap-2">
    <select class="select select-sm w-72 max-w-full" aria-label="Exercise for {s.title}" bind:value={more}
      ><option value="">choose an exercise</option>{#each p.others as e (e.name)}<option value={e.name}
          >{e.title}</option
        >{/each}</select
    >
    <button
      class="btn btn-sm"
      disabled={!more}
      onclick={() => {
        void p.add(n, more)
        more = ''
      }}>Put it in</button
    >
  </div>
</section>
