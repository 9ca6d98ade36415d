<script lang="ts">
  // What lies between two panes: it is dragged, or moved with the arrow keys.
  import { PaneResizer } from 'paneforge'

  let { upright = false, label }: { upright?: boolean; label: string } = $props()
</script>

<PaneResizer
  aria-label={label}
  class="{upright
    ? 'w-1.5 cursor-col-resize'
    : 'h-1.5 cursor-row-resize'} shrink-0 bg-base-300/60 hover:bg-primary focus-visible:bg-info data-active:bg-primary"
/>
