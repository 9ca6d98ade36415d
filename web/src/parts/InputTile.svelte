<script lang="ts">
  // A device that is worked: pressed, switched, set; and its wire, which may break.
  import type { Point } from '../api'
  import type { Bench } from '../state/bench.svelte'

  let { bench, point: p }: { bench: Bench; point: Point } = $props()
  const bit = (p: Point) => bench.value(p.name) ?? ''

  function key(event: KeyboardEvent, p: Point, down: boolean) {
    if (event.key !== ' ' && event.key !== 'Enter') return
    event.preventDefault()
    if (!event.repeat) bench.hand(p, down)
  }
</script>

<div class="flex flex-col gap-0.5 rounded-box border border-base-300 bg-base-100 p-1.5">
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
</div>
