<script lang="ts">
  // How the panel is wired, drawn by the core, alive while the bench works: contacts move, wires carry current, loads are lit.
  import { untilLetGo } from '../held'
  import type { Bench } from '../state/bench.svelte'

  let { bench }: { bench: Bench } = $props()
  let box: HTMLDivElement | undefined = $state()
  const picture = $derived(bench.core.wiring())

  $effect(() => {
    void bench.view
    for (const p of bench.points) {
      const device = box?.querySelector(`[data-name="${CSS.escape(p.name)}"]`)
      if (!device) continue
      const on = bench.value(p.name) === 'TRUE'
      device.classList.toggle('live', on)
      device.classList.toggle('works', !!bench.deviceState(p.name) && p.type === 'BOOL')
      device.classList.toggle('cut', !!bench.isBroken(p.name))
    }
  })
  /** A press on a device works it, as on the panel. */
  function press(event: PointerEvent) {
    const name = (event.target as Element).closest('[data-name]')?.getAttribute('data-name')
    const device = name ? bench.deviceOf(name) : undefined
    if (device) untilLetGo((down) => bench.hand(device, down))
  }
</script>

{#await picture then { svg }}
  <!-- svelte-ignore a11y_no_static_element_interactions -->
  <div bind:this={box} class="wires" onpointerdown={press}>
    <!-- eslint-disable-next-line svelte/no-at-html-tags -- drawn by our own core, which escapes every word in it -->
    {@html svg}
  </div>
{/await}

<style>
  .wires :global(svg) {
    width: 100%;
    height: auto;
    max-width: 30rem;
  }
  .wires :global(.works .rest),
  .wires :global(.device .worked) {
    display: none;
  }
  .wires :global(.works .worked),
  .wires :global(.cut .broken) {
    display: inline;
  }
  .wires :global(.live .signal),
  .wires :global(.live .supply) {
    stroke: var(--color-primary);
    stroke-width: 4;
  }
  .wires :global(.live .load) {
    fill: var(--color-primary);
  }
  .wires :global(.device:has(.rest)) {
    cursor: pointer;
  }
</style>
