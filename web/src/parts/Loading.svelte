<script lang="ts" generics="T">
  // Waits for something, says so, and says what went wrong.
  import type { Snippet } from 'svelte'

  let { what, children }: { what: Promise<T>; children: Snippet<[T]> } = $props()
</script>

{#await what}
  <p class="py-10 text-center opacity-80" role="status">Fetching …</p>
{:then value}
  {@render children(value)}
{:catch error}
  <p class="alert" role="alert">{error.message}</p>
{/await}
