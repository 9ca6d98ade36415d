<script lang="ts">
  import { session } from '../state/session.svelte'
  import ClassMarks from '../parts/ClassMarks.svelte'
  import ExerciseList from '../parts/ExerciseList.svelte'
</script>

{#if session.person?.role === 'instructor'}
  <ClassMarks />
{:else}
  <ExerciseList />
{/if}
