<script lang="ts">
  // The chosen stretch, exact, and what can be done with it: on an input's lane, on an output's, or on all of them.
  import type { Script } from '../state/script.svelte'
  import MomentField from './MomentField.svelte'

  let { script }: { script: Script } = $props()
  const s = $derived(script.stretch)
  const names = $derived([...new Set(script.lanes.map((l) => l.label))])
  const point = $derived(s && script.point(s.signal))
  const isInput = $derived(!!s && script.isInput(s.signal))
  let value = $state('')
  let times = $state(3)
  let until = $state('')
  const graded = $derived(!!s && script.lanes.some((l) => l.label === s.signal && l.kind === 'does'))
  const bool = $derived(script.lanes.find((l) => l.label === s?.signal)?.column.type === 'BOOL')

  async function act(work: () => Promise<unknown>) {
    await work()
  }
  const verb = $derived(point?.device === 'button' ? 'Press' : 'On')
</script>

{#if !s}
  <button
    class="btn self-start btn-xs"
    onclick={() =>
      (script.stretch = {
        signal: names[0] ?? '',
        from: Math.floor(script.scans / 10),
        to: Math.max(1, Math.floor(script.scans / 5)),
      })}>Choose a stretch</button
  >
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
    {#if point && isInput}
      {#if point.type === 'BOOL'}
        <button class="btn btn-xs" onclick={() => act(() => script.work(point.name, s.from, s.to))}>{verb}</button>
        <button class="btn btn-xs" onclick={() => act(() => script.work(point.name, s.from, s.from + 1))}
          >{verb} for 1 scan</button
        >
        {#if point.device === 'button'}
          <span class="join"
            ><input
              type="number"
              min="2"
              class="input join-item input-xs w-14"
              aria-label="How many times"
              bind:value={times}
            /><button
              class="btn join-item btn-xs"
              onclick={() => act(() => script.repeat(point.name, s.from, s.to, times))}>times</button
            ></span
          >
        {/if}
        <button class="btn btn-xs" onclick={() => act(() => script.breakWire(point.name, s.from, s.to))}
          >Break the wire</button
        >
      {:else}
        <input class="input input-xs w-20" aria-label="Value" placeholder="value" bind:value />
        <button class="btn btn-xs" onclick={() => act(() => script.work(point.name, s.from, s.to, value))}>Set</button>
        <input class="input input-xs w-20" aria-label="Value at the end" placeholder="to" bind:value={until} />
        <button
          class="btn btn-xs"
          disabled={!until}
          onclick={() =>
            act(() =>
              script.ramp(
                point.name,
                s.from,
                s.to,
                Number(value) || 0,
                Number(until),
                Math.max(1, Math.round((s.to - s.from) / 10)),
              ),
            )}>Ramp</button
        >
      {/if}
    {:else if s.signal && graded}
      {#if bool}
        <button class="btn btn-xs" onclick={() => act(() => script.check({ is: 'true' }))}
          >Check: TRUE throughout</button
        >
        <button class="btn btn-xs" onclick={() => act(() => script.check({ is: 'false' }))}
          >Check: FALSE throughout</button
        >
        <span class="join"
          ><input
            type="number"
            min="0"
            class="input join-item input-xs w-14"
            aria-label="How often it rises"
            bind:value={times}
          /><button class="btn join-item btn-xs" onclick={() => act(() => script.check({ rises: String(times) }))}
            >Check: rises so often</button
          ></span
        >
      {:else}
        <input class="input input-xs w-24" aria-label="Value" placeholder="value" bind:value />
        <button class="btn btn-xs" disabled={!value} onclick={() => act(() => script.check({ is: value }))}
          >Check: has this value</button
        >
      {/if}
    {:else if !s.signal}
      <button class="btn btn-xs" onclick={() => act(() => script.ignore())}>Do not compare</button>
      <button class="btn btn-xs" onclick={() => act(() => script.cut())}>Cut</button>
      <button class="btn btn-xs" onclick={() => script.copy()}>Copy</button>
      <button class="btn btn-xs" disabled={!script.copied} onclick={() => act(() => script.paste())}>Paste here</button>
      <MomentField
        {script}
        label="by, or to a length of"
        scan={Math.max(1, Math.round((s.to - s.from) / 2))}
        take={(n) => (times = n)}
      />
      <button class="btn btn-xs" onclick={() => act(() => script.reshape('shift', times))}>Shift later</button>
      <button class="btn btn-xs" onclick={() => act(() => script.reshape('shift', -times))}>Shift earlier</button>
      <button class="btn btn-xs" onclick={() => act(() => script.reshape('stretch', times))}>Stretch to it</button>
    {/if}
    <button class="btn ml-auto btn-ghost btn-xs" onclick={() => (script.stretch = null)}>Close</button>
  </div>
{/if}
