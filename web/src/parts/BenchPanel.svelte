<script lang="ts">
  // The panel: devices as wired, lamps and motors with their state in shape and word.
  import type { Point } from '../api'
  import type { Bench } from '../state/bench.svelte'

  let { bench }: { bench: Bench } = $props()

  const on = (p: Point) => bench.value(p.name) === 'TRUE'
  const bit = (p: Point) => bench.value(p.name) ?? ''

  function key(event: KeyboardEvent, p: Point, down: boolean) {
    if (event.key !== ' ' && event.key !== 'Enter') return
    event.preventDefault()
    if (!event.repeat) bench.hand(p, down)
  }
  const word = (p: Point) =>
    p.type === 'BOOL' ? (bench.devices[p.device]?.[on(p) ? 'on' : 'off'] ?? '') : bit(p) + (p.unit ? ' ' + p.unit : '')
</script>

<ul aria-label="Outputs" class="flex flex-wrap gap-1.5">
  {#each bench.exercise.outputs as p (p.name)}
    <li class="flex items-center gap-2 rounded-box border border-base-300 px-2 py-1" data-output={p.name}>
      <svg width="26" height="26" aria-hidden="true" class="shrink-0">
        <circle cx="13" cy="13" r="10" class="lamp" class:on={on(p)} />
        {#if on(p)}<path d="M13 0v5M13 21v5M0 13h5M21 13h5" class="rays" />{/if}
      </svg>
      <span class="flex flex-col text-sm leading-tight"
        ><span class="font-medium">{p.label}</span><span>{word(p)}</span><span class="font-mono text-xs"
          >{p.name} {bit(p)}</span
        ></span
      >
    </li>
  {/each}
</ul>
<ul aria-label="Inputs" class="grid grid-cols-[repeat(auto-fill,minmax(9.5rem,1fr))] gap-1.5">
  {#each bench.exercise.inputs as p (p.name)}
    <li class="flex flex-col gap-0.5 rounded-box border border-base-300 p-1.5">
      {#if p.type !== 'BOOL'}
        <label class="flex flex-col text-sm font-medium"
          >{p.label}
          <span class="flex items-center gap-2">
            <input
              type="number"
              class="input input-xs w-20"
              value={bench.deviceState(p.name)}
              onchange={(e) => bench.device(p.name, { state: Number(e.currentTarget.value) })}
            />{p.unit}
          </span>
          <input
            type="range"
            aria-label="{p.label}, as a slider"
            class="range range-xs mt-1 w-full"
            min="-500"
            max="1000"
            value={bench.deviceState(p.name)}
            oninput={(e) => bench.device(p.name, { state: Number(e.currentTarget.value) })}
          />
        </label>
      {:else if bench.devices[p.device]?.picture === 'button'}
        <button
          class="btn btn-sm touch-none {bench.deviceState(p.name) ? 'btn-primary' : ''}"
          aria-pressed={!!bench.deviceState(p.name)}
          onpointerdown={(e) => {
            e.currentTarget.setPointerCapture(e.pointerId)
            bench.hand(p, true)
          }}
          onpointerup={() => bench.hand(p, false)}
          onpointercancel={() => bench.hand(p, false)}
          onkeydown={(e) => key(e, p, true)}
          onkeyup={(e) => key(e, p, false)}
          onblur={() => bench.hand(p, false)}>{p.label}</button
        >
      {:else}
        <label class="flex h-8 items-center gap-2 text-sm leading-tight font-medium">
          <input
            type="checkbox"
            class="toggle toggle-sm checked:bg-primary"
            checked={!!bench.deviceState(p.name)}
            onchange={(e) => bench.device(p.name, { state: e.currentTarget.checked ? 1 : 0 })}
          />{p.label}
        </label>
      {/if}
      <span class="font-mono text-xs">{p.name} {bit(p)}</span>
      {#if p.type === 'BOOL'}
        <label
          class="flex items-center gap-1 text-xs"
          title={p.contact === 'closed' ? 'wired normally closed' : 'wired normally open'}
        >
          <input
            type="checkbox"
            class="checkbox checkbox-xs"
            checked={bench.isBroken(p.name)}
            onchange={(e) => bench.device(p.name, { broken: e.currentTarget.checked })}
          />wire broken
          {#if p.contact === 'closed'}<abbr class="ml-auto no-underline" title="wired normally closed">NC</abbr>{/if}
        </label>
      {/if}
    </li>
  {/each}
</ul>

<style>
  .lamp {
    fill: var(--color-base-200);
    stroke: var(--color-base-content);
    stroke-width: 1.5;
  }
  .lamp.on {
    fill: var(--color-primary);
    stroke-width: 3;
  }
  .rays {
    stroke: var(--color-base-content);
    stroke-width: 2;
  }
</style>
