<script lang="ts">
  import { session } from '../state/session.svelte'
  import ClassMarks from '../parts/ClassMarks.svelte'
  import ExerciseList from '../parts/ExerciseList.svelte'
</script>

{#if session.teaches}
  <ClassMarks />
{:else}
  <ExerciseList />
{/if}
