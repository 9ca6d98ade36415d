<script lang="ts">
  // A mark, told by words and shape as well as by colour.
  import Check from '@lucide/svelte/icons/check'
  import Minus from '@lucide/svelte/icons/minus'
  import X from '@lucide/svelte/icons/x'

  let { earned, points }: { earned: number; points: number } = $props()
  const size = 16
</script>

<span class="inline-flex items-center gap-1.5 whitespace-nowrap tabular-nums">
  {#if earned === points}
    <Check {size} class="text-success" aria-hidden="true" />
  {:else if earned === 0}
    <X {size} class="text-error" aria-hidden="true" />
  {:else}
    <Minus {size} class="text-warning" aria-hidden="true" />
  {/if}
  {earned} of {points}
</span>
