<script lang="ts">
  import CircleAlert from '@lucide/svelte/icons/circle-alert'
  import TriangleAlert from '@lucide/svelte/icons/triangle-alert'
  import type { Diagnostic } from '../api'

  let { list, go }: { list: Diagnostic[]; go?: (d: Diagnostic) => void } = $props()
</script>

<ul class="flex flex-col gap-1">
  {#each list as d, i (i)}
    <li>
      <button
        class="flex w-full items-start gap-2 rounded-field px-2 py-1.5 text-left text-sm hover:bg-base-200"
        onclick={() => go?.(d)}
        disabled={!go}
      >
        {#if d.severity === 'error'}
          <CircleAlert size={16} class="mt-0.5 shrink-0 text-error" aria-label="Error" />
        {:else}
          <TriangleAlert size={16} class="mt-0.5 shrink-0 text-warning" aria-label="Warning" />
        {/if}
        <span><span class="font-mono">line {d.line}</span> · {d.message} {d.hint ?? ''}</span>
      </button>
    </li>
  {/each}
</ul>
