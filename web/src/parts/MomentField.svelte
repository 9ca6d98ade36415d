<script lang="ts">
  // A moment, written as people write one: 300ms, 1.5s, scan 400.
  import type { Script } from '../state/script.svelte'

  let { script, label, scan, take }: { script: Script; label: string; scan: number; take: (scan: number) => void } =
    $props()
  const period = $derived(script.inputs?.period ?? 1e7)
  const text = $derived.by(() => {
    const ns = scan * period
    return ns % 1e6 ? 'scan ' + scan : ns > 0 && ns < 1e9 ? ns / 1e6 + 'ms' : ns / 1e9 + 's'
  })
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
