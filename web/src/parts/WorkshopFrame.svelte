<script lang="ts">
  // The workshop around its parts: whose exercise, how far it is, whether it is saved, and the way from part to part.
  import Redo2 from '@lucide/svelte/icons/redo-2'
  import Undo2 from '@lucide/svelte/icons/undo-2'
  import type { Workshop } from '../state/workshop.svelte'
  import { parts, stateIn, unfinished, type Part } from '../state/parts'
  import BriefPart from './BriefPart.svelte'
  import MarkingPart from './MarkingPart.svelte'
  import PointsPart from './PointsPart.svelte'
  import ProgramsPart from './ProgramsPart.svelte'
  import PublishPart from './PublishPart.svelte'
  import ScenariosPart from './ScenariosPart.svelte'
  import TryPart from './TryPart.svelte'
  import WrittenCell from './WrittenCell.svelte'

  let { workshop, part }: { workshop: Workshop; part: string } = $props()
  const w = $derived(workshop)
  const form = $derived(w.outline?.form)
  const now = $derived<Part>(parts.some(([p]) => p === part) ? (part as Part) : 'points')
  const kept = {
    service: 'Saved',
    browser: 'Saving …',
    waiting: 'Saved in this browser; the service does not answer just now',
  }
  const counts = $derived(unfinished(w))

  function key(event: KeyboardEvent) {
    const letter = event.key.toLowerCase()
    const field = (event.target as HTMLElement).closest('input, textarea, select, .cm-editor, .ladder, .blocks')
    if (!(event.ctrlKey || event.metaKey) || event.altKey || field || (letter !== 'z' && letter !== 'y')) return
    event.preventDefault()
    if (letter === 'y' || event.shiftKey) w.redo()
    else w.undo()
  }
</script>

<svelte:window onkeydown={key} />

<div class="flex min-h-0 grow flex-col">
  <div class="flex shrink-0 flex-wrap items-center gap-x-4 gap-y-1 border-b border-base-300 px-4 py-1.5">
    <a class="link text-sm" href="#/exercises">Exercises</a>
    {#if form}
      <h1 class="min-w-40 text-lg font-semibold">
        <WrittenCell workshop={w} at="title" value={form.title} label="Title" wide />
      </h1>
    {/if}
    <span class="text-sm opacity-80">{w.owner}/{w.name} · {stateIn(w)}</span>
    <div class="ml-auto flex items-center gap-1">
      <button class="btn btn-ghost btn-xs" disabled={!w.undoable} title="Ctrl Z" onclick={() => w.undo()}
        ><Undo2 size={14} /> Undo</button
      >
      <button class="btn btn-ghost btn-xs" disabled={!w.redoable} title="Ctrl Y" onclick={() => w.redo()}
        ><Redo2 size={14} /> Redo</button
      >
      <span
        class="text-sm opacity-80"
        role="status"
        data-kept={w.kept}
        data-settled={w.settled === w.solution ? 'yes' : 'no'}
        >{w.may === 'change' ? kept[w.kept] : 'You may read this exercise, not change it.'}</span
      >
    </div>
  </div>
  <nav aria-label="Parts of the exercise" class="flex shrink-0 flex-wrap gap-1 border-b border-base-300 px-3 py-1">
    {#each parts as [name, words], n (name)}
      <a
        class="btn btn-sm {now === name ? 'btn-active' : 'btn-ghost'}"
        aria-current={now === name ? 'page' : undefined}
        href="#/workshop/{w.owner}/{w.name}/{name}"
        >{n + 1}
        {words}
        {#if counts[name]}<span class="badge badge-xs badge-warning" title="What is wrong or open here"
            >{counts[name]}</span
          >{/if}</a
      >
    {/each}
  </nav>
  {#if w.problem}
    <p class="alert m-2 alert-soft alert-error" role="alert">
      {w.problem} <button class="btn ml-auto btn-xs" onclick={() => (w.problem = '')}>Close</button>
    </p>
  {/if}
  {#if w.notice}
    <p class="alert m-2 alert-soft" role="status">
      {w.notice} <button class="btn ml-auto btn-xs" onclick={() => (w.notice = '')}>Close</button>
    </p>
  {/if}
  {#if w.elsewhere}
    <p class="alert m-2 alert-soft alert-warning" role="alert">
      <span
        >{w.elsewhere.by} has changed the same part of this exercise meanwhile. Nothing is lost: what you do not choose stays
        one Undo away.</span
      >
      <button class="btn btn-sm" onclick={() => w.choose(true)}>Take theirs</button>
      <button class="btn btn-sm" onclick={() => w.choose(false)}>Keep mine</button>
    </p>
  {/if}
  {#if w.newest > w.base}
    <p class="alert m-2 alert-soft" role="status">
      Revision {w.newest} was published meanwhile; this goes on from revision {w.base}. Publishing makes it revision {w.newest +
        1}.
    </p>
  {/if}
  <div class="flex min-h-0 grow flex-col" inert={w.may !== 'change' && now !== 'publish'}>
    {#if !w.outline || !w.exercise}<p role="status" class="p-6 text-center">Looking at the exercise …</p>
    {:else if now === 'points'}<PointsPart workshop={w} />
    {:else if now === 'brief'}<BriefPart workshop={w} />
    {:else if now === 'programs'}<ProgramsPart workshop={w} />
    {:else if now === 'scenarios'}<ScenariosPart workshop={w} />
    {:else if now === 'marks'}<MarkingPart workshop={w} />
    {:else if now === 'try'}<TryPart workshop={w} />
    {:else}<PublishPart workshop={w} />{/if}
  </div>
</div>
