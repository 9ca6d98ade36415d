<script lang="ts">
  // A program in block diagrams: drawn, changed at the cursor by keys and buttons, and alive on the bench.
  import { tick, untrack } from 'svelte'
  import type { Point } from '../api'
  import type { NetworkBox, NetworkLine, PlacedNetwork } from '../core/core'
  import type { Bench } from '../state/bench.svelte'
  import { Blocks } from '../state/blocks.svelte'
  import type { Drawing } from '../state/drawing.svelte'
  import BlockField from './BlockField.svelte'
  import NameList from './NameList.svelte'
  import NetworkDrawing from './NetworkDrawing.svelte'

  let {
    drawing,
    points,
    bench,
    go,
  }: { drawing: Drawing; points: Point[]; bench: Bench | null; go: (line: number, column: number) => void } = $props()
  // svelte-ignore state_referenced_locally
  const blocks = new Blocks(drawing)
  let box = $state<HTMLElement>()
  let helps = $state(false)
  const alive = $derived(bench?.loaded && bench.text === drawing.draft.text)
  $effect(() => {
    void drawing.networks
    untrack(() => bench?.see([], { from: 0, to: 0 }))
  })

  const carries = (n: PlacedNetwork) => (l: NetworkLine) => (alive ? bench!.carries(n, l) : undefined)
  const face = (n: PlacedNetwork) => (b: NetworkBox) =>
    alive ? bench!.face(bench!.inside(drawing.units[n.unit], b.instance), b) : ''
  const several = $derived(drawing.units.filter((u) => u.diagram).length > 1)
  const wrong = (n: PlacedNetwork) => {
    const lines = drawing.draft.text.slice(n.start, n.end).split('\n').length
    return (drawing.draft.checked?.diagnostics ?? []).filter((d) => d.line >= n.line && d.line < n.line + lines)
  }

  const commands: Record<string, () => unknown> = {
    b: () => blocks.ask('block'),
    l: () => blocks.ask('line'),
    o: () => blocks.ask('target'),
    r: () => blocks.add(),
    R: () => blocks.add(true),
    t: () => blocks.ask('title', blocks.network?.geometry.title),
    m: () => blocks.ask('comment', blocks.network?.comment),
    d: () => drawing.declare(drawing.offered?.types[0] ?? ''),
    '/': () => blocks.invert(),
    '+': () => blocks.more(),
    Enter: () => blocks.edit(),
    F2: () => blocks.edit(),
    Delete: () => blocks.remove(),
    Backspace: () => blocks.remove(),
    Escape: () => (drawing.offered = null),
    ArrowLeft: () => blocks.move(-1, 0),
    ArrowRight: () => blocks.move(1, 0),
    ArrowUp: () => blocks.move(0, -1),
    ArrowDown: () => blocks.move(0, 1),
    'Alt+ArrowUp': () => blocks.shift(-1),
    'Alt+ArrowDown': () => blocks.shift(1),
    'Ctrl+Delete': () => blocks.removeNetwork(),
    'Ctrl+z': () => drawing.undo(),
    'Ctrl+y': () => drawing.redo(),
    'Ctrl+Z': () => drawing.redo(),
  }
  const tools: [key: string, words: string][] = [
    ['b', 'Block'],
    ['l', 'Line'],
    ['o', 'Output'],
    ['/', 'Invert'],
    ['+', 'Input'],
    ['r', 'Network'],
    ['Delete', 'Remove'],
    ['t', 'Title'],
    ['m', 'Comment'],
  ]
  const keys: [string, string][] = [
    ['arrows', 'move'],
    ['Enter', 'the value at a pin; of a box its text'],
    ['letters', 'a name, at an open pin'],
    ['Alt + letter', 'the tool, wherever'],
    ['b', 'a function before the pin, or a timer, counter or block of one’s own'],
    ['/', 'circle on and off; set becomes reset'],
    ['+', 'one more input'],
    ['o', 'one more place where the value goes'],
    ['l', 'a new line: mist_on => mist_valve'],
    ['Delete', 'take away'],
    ['r R', 'network below, above'],
    ['t m', 'title, comment'],
    ['Alt + ↑ ↓', 'move the network'],
    ['Ctrl + Delete', 'remove the network'],
    ['Ctrl + Z, Y', 'undo, redo'],
  ]
  function key(event: KeyboardEvent) {
    if (event.target !== box) return
    const letter = /^[A-Za-z_]$/.test(event.key)
    const name = (event.ctrlKey || event.metaKey ? 'Ctrl+' : event.altKey && !letter ? 'Alt+' : '') + event.key
    if (letter && name === event.key && !event.altKey && blocks.namable) {
      event.preventDefault()
      return blocks.ask('value', event.key, true)
    }
    const does = commands[name]
    if (!does) return
    event.preventDefault()
    void does()
  }
  const back = () => void tick().then(() => box?.focus({ preventScroll: true }))
  async function take(text: string) {
    back()
    await blocks.take(text)
  }
  // The cursor stays in view.
  $effect(() => {
    void drawing.place
    void tick().then(() => box?.querySelector('[data-cursor]')?.scrollIntoView({ block: 'nearest', inline: 'nearest' }))
  })
  const openText = (n: PlacedNetwork) => go(n.line, 1)
</script>

<div class="flex min-h-0 grow flex-col gap-1">
  <div class="flex shrink-0 flex-wrap items-center gap-1">
    {#each tools as [k, words] (k)}
      <button
        class="btn btn-xs"
        title="{words} ({k})"
        onclick={() => {
          back()
          void commands[k]()
        }}>{words}</button
      >
    {/each}
    <button class="btn ml-auto btn-ghost btn-xs" aria-expanded={helps} onclick={() => (helps = !helps)}>Keys</button>
  </div>
  {#if helps}
    <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
    <dl
      class="grid max-h-28 shrink-0 grid-cols-2 gap-x-4 overflow-y-auto rounded-box bg-base-200 p-2 text-xs"
      tabindex="0"
    >
      {#each keys as [k, does] (k)}<div class="flex gap-2">
          <dt class="font-mono font-semibold whitespace-nowrap">{k}</dt>
          <dd>{does}</dd>
        </div>{/each}
    </dl>
  {/if}
  <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
  <div
    bind:this={box}
    class="blocks min-h-0 grow overflow-auto rounded-box border border-base-300 p-2"
    role="application"
    tabindex="0"
    aria-label="Block diagram"
    aria-roledescription="drawing"
    aria-describedby="blocks-cursor"
    onkeydown={key}
  >
    {#each drawing.networks as n, index (n.unit + ':' + n.number)}
      {@const here = index === blocks.index}
      <div data-network={index} class="pb-2">
        <p class="flex h-6.5 items-center gap-2 text-sm" class:font-semibold={here}>
          <span class="tabular-nums opacity-80">{index + 1}</span>
          {#if n.number === 0 && several}<span class="badge badge-sm">{drawing.units[n.unit]?.name}</span>{/if}
          <span>{n.geometry.title}</span>
          {#if wrong(n).length}<button class="link text-xs" tabindex="-1" onclick={() => openText(n)}
              >in the text</button
            >{/if}
        </p>
        {#if n.comment}<p class="text-xs whitespace-pre-line italic opacity-80">{n.comment}</p>{/if}
        {#each wrong(n) as d, i (i)}<p class="text-xs {d.severity === 'error' ? 'text-error' : ''}">
            {d.message}
            {d.hint}
          </p>{/each}
        <!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_static_element_interactions -->
        <div class="relative min-h-6" onclick={() => here || blocks.select(index, [])}>
          <NetworkDrawing
            network={n}
            carries={carries(n)}
            face={face(n)}
            cursor={here ? (blocks.spot?.path ?? null) : null}
            pick={(path, twice) => {
              blocks.select(index, path)
              if (twice) blocks.edit()
            }}
          />
          {#if here && blocks.asked}<BlockField
              {blocks}
              {points}
              {take}
              leave={() => ((blocks.asked = null), back())}
            />{/if}
        </div>
      </div>
    {:else}
      <p class="p-4">
        There is no network yet. Press <kbd class="kbd">r</kbd>, or the button Network, for the first; then
        <kbd class="kbd">l</kbd> for a line such as <code>mist_on =&gt; mist_valve</code>, and <kbd class="kbd">b</kbd> to
        put AND, OR or NOT into it.
      </p>
    {/each}
  </div>
  {#if drawing.problem}<p role="alert" class="text-sm text-error">{drawing.problem}</p>{/if}
  {#if drawing.offered}
    <p class="flex flex-wrap items-center gap-2 text-sm" role="status">
      <span><b class="font-mono">{drawing.offered.name}</b> is new here.</span>
      {#each drawing.offered.types as type, n (type)}<button class="btn btn-xs" onclick={() => drawing.declare(type)}
          >Declare it as {type}{n ? '' : ' (d)'}</button
        >{/each}
    </p>
  {/if}
  <NameList
    {drawing}
    {points}
    give={(name) => {
      blocks.ask('value')
      void take(name)
    }}
    carry={() => undefined}
  />
  <p id="blocks-cursor" role="status" class="shrink-0 truncate text-sm">{blocks.said}</p>
</div>
