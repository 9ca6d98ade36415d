<script lang="ts">
  // Devices where they stand on the panel. While they are arranged each has a handle: dragged, or moved by arrows.
  import Move from '@lucide/svelte/icons/move'
  import type { Point } from '../api'
  import type { Bench } from '../state/bench.svelte'
  import InputTile from './InputTile.svelte'
  import OutputTile from './OutputTile.svelte'

  let {
    bench,
    placed,
    place,
  }: { bench: Bench; placed: Point[]; place?: (point: Point, at: [number, number]) => void } = $props()
  let ground = $state<HTMLElement>()
  /** Where a device is being brought: it stands there until the exercise has it there. */
  let own = $state<{ name: string; at: [number, number] } | null>(null)
  let held = false
  const isInput = (p: Point) => bench.exercise.inputs.includes(p)
  const at = (p: Point) => (own?.name === p.name ? own.at : (p.place as [number, number]))
  const within = (n: number) => Math.round(Math.min(Math.max(n, 0), 100))
  $effect(() => {
    const p = placed.find((p) => p.name === own?.name)
    if (p && !held && p.place!.join() === own!.at.join()) own = null
  })

  function take(event: PointerEvent, p: Point) {
    ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
    held = true
    own = { name: p.name, at: at(p) }
  }
  function drag(event: PointerEvent) {
    if (!held || !own) return
    const box = ground!.getBoundingClientRect()
    const x = within((100 * (event.clientX - box.left)) / box.width)
    own.at = [x, within((100 * (event.clientY - box.top)) / box.height)]
  }
  function drop(p: Point) {
    held = false
    if (own) place?.(p, own.at)
  }
  function key(event: KeyboardEvent, p: Point) {
    const by = { ArrowLeft: [-2, 0], ArrowRight: [2, 0], ArrowUp: [0, -2], ArrowDown: [0, 2] }[event.key]
    if (!by) return
    event.preventDefault()
    own = { name: p.name, at: [within(at(p)[0] + by[0]), within(at(p)[1] + by[1])] }
    place?.(p, own.at)
  }
</script>

<div
  bind:this={ground}
  class="relative w-full overflow-hidden rounded-box border border-base-300 bg-base-200"
  data-placed
>
  {#if bench.exercise.picture}<img src={bench.exercise.picture} alt="The panel" class="block w-full" />
  {:else}<div class="aspect-square"></div>{/if}
  {#each placed as p (p.name)}
    <div
      class="absolute w-32 max-w-1/2 -translate-x-1/2 -translate-y-1/2"
      style:left="{at(p)[0]}%"
      style:top="{at(p)[1]}%"
      data-at={p.name}
    >
      {#if place}
        <button
          class="btn absolute -top-2 -left-2 z-10 btn-square cursor-move touch-none btn-xs"
          aria-label="Place of {p.label}: {at(p)[0]} % from the left, {at(
            p,
          )[1]} % from the top. Drag it, or use the arrows."
          onpointerdown={(e) => take(e, p)}
          onpointermove={drag}
          onpointerup={() => drop(p)}
          onkeydown={(e) => key(e, p)}><Move size={12} /></button
        >
      {/if}
      {#if isInput(p)}<InputTile {bench} point={p} />{:else}<OutputTile {bench} point={p} />{/if}
    </div>
  {/each}
</div>
