<script lang="ts">
  import type { Workshop } from '../state/workshop.svelte'
  let { workshop: w }: { workshop: Workshop } = $props()
</script>

{w.name}
