<script lang="ts">
  // The same draft was written to elsewhere: which of the two goes on?
  import type { Draft } from '../state/draft.svelte'

  let { draft }: { draft: Draft } = $props()
</script>

{#if draft.elsewhere !== null}
  <p class="alert alert-soft m-2" role="alert">
    <span>This exercise is open in {draft.elsewhere.where}, where the text has been changed.</span>
    <button class="btn btn-sm" onclick={() => draft.settle(true)}>Take that text</button>
    <button class="btn btn-sm" onclick={() => draft.settle(false)}>Keep this one</button>
  </p>
{/if}
