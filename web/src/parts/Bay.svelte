<script lang="ts">
  // A pane of the workbench with its name; a press on the name folds it to that line.
  import { Pane } from 'paneforge'
  import type { Snippet } from 'svelte'

  let {
    name,
    size,
    least = 12,
    folds = false,
    high = 600,
    order,
    head,
    children,
  }: {
    name: string
    /** How much of its group it takes at first, in percent. */
    size: number
    least?: number
    folds?: boolean
    /** The height of its group, in pixels. */
    high?: number
    order: number
    /** What stands beside the name. */
    head?: Snippet
    children: Snippet
  } = $props()
  let pane: ReturnType<typeof Pane> | undefined = $state()
  let folded = $state(false)
  const line = $derived(Math.min(30, Math.ceil((34 / Math.max(high, 100)) * 100)))
  // svelte-ignore state_referenced_locally
  let open = size

  // The library's own unfolding knows a folded pane by its exact size, which another height of the window changes.
  function fold() {
    if (folded) return pane?.resize(open)
    open = pane?.getSize() ?? size
    pane?.collapse()
  }
</script>

<Pane
  bind:this={pane}
  {order}
  defaultSize={size}
  minSize={least}
  collapsible={folds}
  collapsedSize={line}
  onResize={(now) => (folded = folds && now < line + 1)}
  class="flex min-h-0 min-w-0 flex-col"
>
  {#if folds || head}
    <div class="flex h-8.5 shrink-0 items-center gap-2 px-3">
      <h2 class="text-sm font-semibold">
        {#if folds}<button class="flex items-center gap-1" aria-expanded={!folded} onclick={fold}
            ><span aria-hidden="true" class="inline-block w-3 text-xs">{folded ? '▸' : '▾'}</span>{name}</button
          >{:else}{name}{/if}
      </h2>
      {#if !folded}{@render head?.()}{/if}
    </div>
  {/if}
  <div class="flex min-h-0 grow flex-col" hidden={folded}>{@render children()}</div>
</Pane>
