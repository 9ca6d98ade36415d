<script lang="ts">
  // A tool as it is drawn in a rung.
  let { tool }: { tool: string } = $props()
  const shapes: Record<string, string> = {
    contact: 'M1 8h6M15 8h6M7 3v10M15 3v10',
    coil: 'M1 8h5M16 8h5M8.500 2.500q-5 5.500 0 11M13.500 2.500q5 5.500 0 11',
    block: 'M1 6h4M17 6h4M5 2h12v12h-12z',
    branch: 'M1 4h20M5 4v8h12v-8',
    rung: 'M2 2v12M20 2v12M2 8h18',
    name: 'M4 13L11 2l7 11M7 9h8',
    invert: 'M1 8h6M15 8h6M7 3v10M15 3v10M8 13L14 3',
    out: 'M5 3l12 10M17 3l-12 10',
    undo: 'M8 3L4 7l4 4M4 7h9a4 4 0 0 1 0 7h-3',
    redo: 'M14 3l4 4l-4 4M18 7h-9a4 4 0 0 0 0 7h3',
  }
</script>

<svg width="22" height="16" viewBox="0 0 22 16" aria-hidden="true" class="shrink-0">
  <path d={shapes[tool]} fill="none" stroke="currentColor" stroke-width="1.8" stroke-linejoin="round" />
</svg>
