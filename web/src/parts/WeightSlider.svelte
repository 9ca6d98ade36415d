<script lang="ts">
  // A weight by a slider. Keys come faster than the core answers: while it is held, what it shows is its own.
  import type { Workshop } from '../state/workshop.svelte'

  let { workshop, at, value, label }: { workshop: Workshop; at: string; value: number; label: string } = $props()
  let own = $state<number | null>(null)
  let soon: ReturnType<typeof setTimeout> | undefined

  function take(weight: number) {
    own = weight
    clearTimeout(soon)
    soon = setTimeout(put, 250)
  }
  async function put() {
    clearTimeout(soon)
    const weight = own
    if (weight === null) return
    await workshop.put(at, weight)
    await workshop.look()
    if (own === weight) own = null
  }
</script>

<input
  type="range"
  min="1"
  max="10"
  class="range w-full range-xs"
  aria-label={label}
  data-at={at}
  value={own ?? value}
  oninput={(e) => take(Number(e.currentTarget.value))}
  onblur={put}
/>
