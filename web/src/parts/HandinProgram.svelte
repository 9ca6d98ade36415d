<script lang="ts">
  // The program that was handed in: its rungs and networks drawn with what was said of each, and its text.
  import type { Handin } from '../api'
  import type { Drawn } from '../core/core'
  import DrawnHandin from './DrawnHandin.svelte'
  import Editor from './Editor.svelte'

  let { handin: h, drawn, changed }: { handin: Handin; drawn: Drawn; changed: () => void } = $props()
</script>

<section aria-label="What was handed in" class="flex flex-col gap-3">
  <h2 class="flex flex-wrap items-baseline gap-x-3 font-semibold">
    What was handed in <span class="font-mono text-sm font-normal opacity-80">{h.file}</span>
  </h2>
  {#if drawn.rungs.length || drawn.networks.length}<DrawnHandin handin={h} {drawn} {changed} />{/if}
  <div>
    <Editor
      text={h.text ?? ''}
      diagnostics={h.result?.diagnostics ?? []}
      readonly
      label="The program that was handed in"
    />
  </div>
</section>
