<script lang="ts">
  // A program in block diagrams, drawn from its text and alive on the bench.
  import { untrack } from 'svelte'
  import type { NetworkBox, NetworkLine, PlacedNetwork } from '../core/core'
  import type { Bench } from '../state/bench.svelte'
  import type { Drawing } from '../state/drawing.svelte'
  import NetworkDrawing from './NetworkDrawing.svelte'

  let { drawing, bench, go }: { drawing: Drawing; bench: Bench | null; go: (line: number, column: number) => void } =
    $props()
  const alive = $derived(bench?.loaded && bench.text === drawing.draft.text)
  $effect(() => {
    void drawing.networks
    untrack(() => bench?.see([], { from: 0, to: 0 }))
  })

  const inside = (n: PlacedNetwork, name: string) => bench!.inside(drawing.units[n.unit], name)
  const carries = (n: PlacedNetwork) => (l: NetworkLine) => (alive ? bench!.carries(n, l) : undefined)
  const face = (n: PlacedNetwork) => (b: NetworkBox) => (alive ? bench!.face(inside(n, b.instance), b) : '')
  const pick = (n: PlacedNetwork) => (start: number) => {
    const before = drawing.draft.text.slice(0, n.start + start).split('\n')
    go(before.length, before.at(-1)!.length + 1)
  }
  const several = $derived(drawing.units.filter((u) => u.diagram).length > 1)
  const wrong = (n: PlacedNetwork) =>
    (drawing.draft.checked?.diagnostics ?? []).filter(
      (d) => d.line >= n.line && d.line < n.line + drawing.draft.text.slice(n.start, n.end).split('\n').length,
    )
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<div
  class="blocks min-h-0 grow overflow-auto rounded-box border border-base-300 p-2"
  role="region"
  aria-label="Block diagram"
  tabindex="0"
>
  {#each drawing.networks as n, index (n.unit + ':' + n.number)}
    <div data-network={index} class="pb-2">
      <p class="flex h-6.5 items-center gap-2 text-sm">
        <span class="tabular-nums opacity-80">{index + 1}</span>
        {#if n.number === 0 && several}<span class="badge badge-sm">{drawing.units[n.unit]?.name}</span>{/if}
        <span>{n.geometry.title}</span>
      </p>
      {#each wrong(n) as d, i (i)}<p class="text-xs {d.severity === 'error' ? 'text-error' : ''}">
          {d.message}
          {d.hint}
        </p>{/each}
      <NetworkDrawing network={n} carries={carries(n)} face={face(n)} pick={pick(n)} />
    </div>
  {:else}
    <p class="p-4">
      There is no network yet. Write <code>NETWORK</code> between <code>FBD</code> and <code>END_FBD</code>, and in it
      what goes where: <code>AND(a, b) =&gt; lamp;</code>
    </p>
  {/each}
</div>
