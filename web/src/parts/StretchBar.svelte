<script lang="ts">
  // The chosen stretch, exact, and what can be done with it: on an input's lane, on an output's, or on all of them.
  import type { Script } from '../state/script.svelte'
  import MomentField from './MomentField.svelte'
  import StretchOfAll from './StretchOfAll.svelte'
  import StretchOfInput from './StretchOfInput.svelte'
  import StretchOfOutput from './StretchOfOutput.svelte'

  let { script }: { script: Script } = $props()
  const s = $derived(script.stretch)
  const names = $derived([...new Set(script.lanes.map((l) => l.label))])
  const point = $derived(s && script.point(s.signal))

  function choose() {
    const [from, to] = [Math.floor(script.scans / 10), Math.max(1, Math.floor(script.scans / 5))]
    script.stretch = { signal: names[0] ?? '', from, to }
  }
</script>

{#if !s}<button class="btn self-start btn-xs" onclick={choose}>Choose a stretch</button>
{:else}
  <div
    role="group"
    aria-label="The chosen stretch"
    class="flex flex-wrap items-end gap-2 rounded-box bg-base-200 p-2 text-sm"
  >
    <label class="flex flex-col"
      >Of <select class="select select-xs w-36" bind:value={s.signal}
        ><option value="">all of them</option>{#each names as n (n)}<option value={n}>{n}</option>{/each}</select
      ></label
    >
    <MomentField {script} label="from" scan={s.from} take={(scan) => (s.from = Math.min(scan, s.to - 1))} />
    <MomentField {script} label="to" scan={s.to} take={(scan) => (s.to = Math.max(scan, s.from + 1))} />
    {#if point}<StretchOfInput {script} stretch={s} {point} />
    {:else if s.signal}<StretchOfOutput {script} stretch={s} />
    {:else}<StretchOfAll {script} stretch={s} />{/if}
    <button class="btn ml-auto btn-ghost btn-xs" onclick={() => (script.stretch = null)}>Close</button>
  </div>
{/if}
