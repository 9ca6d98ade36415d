<script lang="ts">
  // A frame around a table, within which it scrolls where it is wider than the page; keys scroll it too.
  import type { Snippet } from 'svelte'

  let { label, children }: { label: string; children: Snippet } = $props()
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<div class="overflow-x-auto rounded-box border border-base-300" role="region" aria-label={label} tabindex="0">
  {@render children()}
</div>
