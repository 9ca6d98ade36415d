<script lang="ts" generics="T">
  // Waits for something, says so, and says what went wrong. What is there stays until what replaces it has come:
  // nothing that is being written in it is lost, no key falls into a gap.
  import type { Snippet } from 'svelte'

  let { what, children }: { what: Promise<T>; children: Snippet<[T]> } = $props()
  let shown = $state.raw<{ value: T } | null>(null)
  let problem = $state('')
  let busy = $state(true)

  $effect(() => {
    let left = false
    busy = true
    what
      .then(
        (value) => left || ((shown = { value }), (problem = '')),
        (error: Error) => left || (problem = error.message),
      )
      .then(() => left || (busy = false))
    return () => (left = true)
  })
</script>

{#if problem}<p class="alert m-2" role="alert">{problem}</p>
{:else if !shown}<p class="py-10 text-center opacity-80" role="status">Fetching …</p>{/if}
{#if shown}
  <div class="contents" aria-busy={busy}>{@render children(shown.value)}</div>
{/if}
