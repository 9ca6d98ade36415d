<script lang="ts">
  // A program at work: drawn, or, where it is text, as it is written with the values beside it.
  import type { Bench } from '../state/bench.svelte'
  import DrawnProgram from './DrawnProgram.svelte'
  import Editor from './Editor.svelte'

  let {
    bench,
    label,
    fills = false,
  }: { bench: Bench; label: string; /** It takes all the room that there is. */ fills?: boolean } = $props()
  const live = {
    read: (names: { line: number; name: string }[]) => bench.read([...new Set(names.map((n) => n.name))]),
    value: (_: number, name: string) => bench.value(name),
  }
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<div
  class="flex flex-col gap-2 overflow-auto {fills ? 'min-h-0 grow' : 'max-h-112'}"
  aria-label={label}
  role="region"
  tabindex="0"
>
  {#if bench.rungs.length || bench.networks.length}
    <DrawnProgram rungs={bench.rungs} networks={bench.networks} of={label} {bench} />
  {:else}
    {#key bench.text}<Editor text={bench.text} diagnostics={[]} readonly {live} beat={bench.view} {label} />{/key}
  {/if}
</div>
