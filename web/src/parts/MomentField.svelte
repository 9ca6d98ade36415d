<script lang="ts">
  // A moment, written as people write one: 300ms, 1.5s, scan 400.
  import { moment } from '../trace'
  import type { Script } from '../state/script.svelte'

  let { script, label, scan, take }: { script: Script; label: string; scan: number; take: (scan: number) => void } =
    $props()
  const text = $derived(script.inputs ? moment(script.inputs, scan) : 'scan ' + scan)
  let problem = $state('')

  async function read(words: string) {
    try {
      const found = await script.workshop.core.ask('scanOf', {
        period: script.workshop.outline!.period,
        text: words.trim(),
      })
      problem = ''
      take(found.scan)
    } catch (error) {
      problem = (error as Error).message
    }
  }
</script>

<label class="flex flex-col"
  >{label}
  <input
    class="input input-xs w-24 font-mono"
    class:input-error={!!problem}
    aria-invalid={!!problem}
    title={problem || `scan ${scan}`}
    value={text}
    onchange={(e) => read(e.currentTarget.value)}
  /></label
>
