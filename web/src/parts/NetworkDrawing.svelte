<script lang="ts">
  // One network of a block diagram, with what its lines carry: TRUE is yellow and thick, a number stands on its line, a timer
  // or counter has its face.
  import type { NetworkBox, NetworkLine, PlacedNetwork } from '../core/core'
  import { across, along, circle, faceHeight, placed, size, spotsOf } from '../state/network'

  let {
    network,
    carries = () => undefined,
    face = () => '',
    cursor = null,
    pick,
    draw,
  }: {
    network: PlacedNetwork
    /** What a line carries; undefined while nothing runs. */
    carries?: (line: NetworkLine) => string | undefined
    face?: (box: NetworkBox) => string
    /** The path of the spot at which the cursor stands. */
    cursor?: number[] | null
    /** Takes a spot that is pointed at, once or twice. */
    pick?: (path: number[], twice: boolean) => void
    /** A wire may begin at a place, of an instance at an output. */
    draw?: (event: PointerEvent, path: number[], output?: string) => void
  } = $props()

  const g = $derived(network.geometry)
  const { width, height } = $derived(size(g))
  const lit = (l: NetworkLine) => carries(l) === 'TRUE'
  /** A value is written on its line unless the line itself shows it, or it is a constant. */
  const written = (l: NetworkLine) => {
    const v = carries(l)
    return v === undefined || v === 'TRUE' || v === 'FALSE' || !placed(l) ? '' : v
  }
</script>

{#snippet bubble(x: number, y: number)}<circle cx={x} cy={y} r={circle} class="circle" />{/snippet}

<svg
  {width}
  {height}
  viewBox="0 0 {width} {height}"
  class="network block"
  class:pickable={pick}
  role="img"
  aria-label="Network {g.title || 'at line ' + network.line}"
>
  {#each g.lines as l, n (n)}
    <g class="line" class:lit={lit(l)} data-carries={carries(l)}>
      {#each l.pieces as p, m (m)}
        <path d="M{across(p.x1)} {along(p.y1)}L{across(p.x2)} {along(p.y2)}" />
      {/each}
      {#each l.forks as f, m (m)}<circle cx={across(f.x)} cy={along(f.y)} r="3.5" class="fork" />{/each}
    </g>
  {/each}
  {#each g.boxes as b, n (n)}
    {@const left = across(b.x)}
    {@const right = across(b.x + b.width - 1)}
    {@const top = along(b.y) - 12}
    {@const shown = face(b)}
    <g aria-label={b.heading}>
      <rect x={left} y={top} width={right - left} height={along(b.y + b.height - 1) - top - 4} rx="2" class="body" />
      <text x={(left + right) / 2} y={along(b.y) + 4} class="kind">{b.heading}</text>
      {#each b.inputs as pin, m (m)}
        {@const y = along(b.y + 1 + m)}
        <text x={left + 5} y={y + 4} class="pin">{pin.name}</text>
        {#if pin.inverted}{@render bubble(left - circle, y)}{/if}
        {#if pin.open}<path d="M{left - 12} {y}H{left}" class="open" /><text x={left - 22} y={y + 4} class="lacks"
            >?</text
          >{/if}
      {/each}
      {#each b.outputs as pin, m (m)}
        <text x={right - 5} y={along(b.y + 1 + m) + 4} class="pin end">{pin.name}</text>
      {/each}
      {#if shown}
        <rect
          x={(left + right) / 2 - shown.length * 3.8 - 5}
          y={along(b.y + b.height - 1) - 12}
          width={shown.length * 7.6 + 10}
          height={faceHeight}
          rx="3"
          class="plate"
        />
        <text x={(left + right) / 2} y={along(b.y + b.height - 1) + 1} class="face">{shown}</text>
      {/if}
    </g>
  {/each}
  {#each g.words as w, n (n)}
    <text x={across(w.x) - 3} y={along(w.y) + 4} class="name">{w.text}</text>
    {#if w.inverted}{@render bubble(across(w.x) - 9, along(w.y))}{/if}
  {/each}
  {#each g.names as w, n (n)}<text x={across(w.x) - 4} y={along(w.y) - 5} class="wire">{w.text}</text>{/each}
  {#each g.lines as l, n (n)}
    {#if written(l)}<text x={across(l.pieces[0].x1) + 5} y={along(l.pieces[0].y1) - 5} class="value">{written(l)}</text
      >{/if}
  {/each}
  {#if pick}
    {#each spotsOf(g) as s (s.path.join())}
      <!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_static_element_interactions -->
      <rect
        x={s.x}
        y={s.y}
        width={s.width}
        height={s.height}
        rx="4"
        class="spot"
        class:cursor={cursor?.join() === s.path.join()}
        data-cursor={cursor?.join() === s.path.join() ? '' : undefined}
        data-path={s.path.join('.')}
        onclick={(e) => {
          e.stopPropagation()
          pick(s.path, e.detail > 1)
        }}
        onpointerdown={(e) => s.kind !== 'open' && draw?.(e, s.path)}
      />
    {/each}
    {#if draw}
      {#each g.boxes as b (b.path.join())}
        {#each b.outputs as pin, m (m)}
          <!-- svelte-ignore a11y_no_static_element_interactions -->
          <circle
            cx={across(b.x + b.width - 1)}
            cy={along(b.y + 1 + m)}
            r="6"
            class="grip"
            data-output="{b.path.join('.')} {pin.name}"
            onpointerdown={(e) => draw(e, b.path, b.instance ? pin.name : '')}
            ><title>Draw a wire from here</title></circle
          >
        {/each}
      {/each}
    {/if}
  {/if}
</svg>

<style>
  .network {
    font-family: var(--font-mono);
    font-size: 12.5px;
    fill: var(--color-base-content);
  }
  .pickable {
    cursor: pointer;
  }
  .open {
    stroke: var(--color-error);
    stroke-width: 1.5;
  }
  .lacks {
    fill: var(--color-error);
    font-weight: 600;
  }
  .spot {
    fill: transparent;
    touch-action: pan-y;
  }
  .grip {
    fill: transparent;
    cursor: crosshair;
    touch-action: none;
  }
  .grip:hover {
    fill: var(--color-info);
  }
  .spot:hover {
    fill: color-mix(in oklab, var(--color-primary) 18%, transparent);
  }
  .spot.cursor {
    stroke: var(--color-info);
    stroke-width: 2.5;
    fill: color-mix(in oklab, var(--color-info) 8%, transparent);
  }
  .line path {
    stroke: color-mix(in oklab, var(--color-base-content) 55%, transparent);
    stroke-width: 1.5;
    stroke-linecap: square;
  }
  .fork {
    fill: color-mix(in oklab, var(--color-base-content) 75%, var(--color-base-100));
  }
  .lit path {
    stroke: var(--color-primary);
    stroke-width: 4.5;
  }
  .lit .fork {
    fill: var(--color-primary);
  }
  .body {
    stroke: var(--color-base-content);
    stroke-width: 1.5;
    fill: var(--color-base-200);
  }
  .circle {
    stroke: var(--color-base-content);
    stroke-width: 1.5;
    fill: var(--color-base-100);
  }
  .kind {
    text-anchor: middle;
    font-weight: 600;
  }
  .end {
    text-anchor: end;
  }
  .plate {
    stroke: var(--color-base-content);
    fill: var(--color-base-100);
  }
  .face {
    text-anchor: middle;
  }
  .wire {
    font-style: italic;
    font-size: 11px;
  }
  .value {
    font-size: 11px;
    font-weight: 600;
    stroke: var(--color-base-100);
    stroke-width: 3px;
    paint-order: stroke;
  }
</style>
