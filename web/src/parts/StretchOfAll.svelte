<script lang="ts">
  // What can be done with everything in a stretch of time.
  import type { Script, Stretch } from '../state/script.svelte'
  import MomentField from './MomentField.svelte'

  let { script, stretch: s }: { script: Script; stretch: Stretch } = $props()
  /** As it was written; before that, half of the stretch. */
  let written = $state<number | null>(null)
  const by = $derived(written ?? Math.max(1, Math.round((s.to - s.from) / 2)))
</script>

<button class="btn btn-xs" onclick={() => script.ignore(s)}>Do not compare</button>
<button class="btn btn-xs" onclick={() => script.cut(s)}>Cut</button>
<button class="btn btn-xs" onclick={() => script.copy(s)}>Copy</button>
<button class="btn btn-xs" disabled={!script.copied?.length} onclick={() => script.paste(s)}
  >Paste at its beginning</button
>
<MomentField {script} label="by, or to a length of" scan={by} take={(scans) => (written = scans)} />
<button class="btn btn-xs" onclick={() => script.reshape(s, 'shift', by)}>Shift later</button>
<button class="btn btn-xs" onclick={() => script.reshape(s, 'shift', -by)}>Shift earlier</button>
<button class="btn btn-xs" onclick={() => script.reshape(s, 'stretch', by)}>Stretch to it</button>
