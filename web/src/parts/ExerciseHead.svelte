<script lang="ts">
  // What stands above an exercise's panes: its name and terms, what an instructor may see of it (children), and the way to its worksheet.
  import type { Snippet } from 'svelte'
  import type { Exercise } from '../api'
  import { session } from '../state/session.svelte'

  let { exercise, terms, children }: { exercise: Exercise; terms: Snippet; children: Snippet } = $props()
</script>

<div class="flex shrink-0 flex-wrap items-baseline gap-x-4 border-b border-base-300 px-4 py-1.5">
  <a class="link text-sm" href="#/">Exercises</a>
  <h1 class="text-lg font-semibold">{exercise.title}</h1>
  <span class="text-sm opacity-80">{exercise.topic} · {exercise.points} points · a scan every {exercise.period}</span>
  {@render terms()}
  {#if session.teaches}
    {@render children()}
    <a class="link text-sm" href="#/exercise/{exercise.name}/handins">Hand-ins</a>
  {/if}
  <a class="link text-sm" class:ml-auto={!session.teaches} href="#/exercise/{exercise.name}/worksheet">Worksheet</a>
</div>
