<script lang="ts">
  // A program in block diagrams: drawn, changed at the cursor by keys and buttons, and alive on the bench.
  import { tick, untrack } from 'svelte'
  import type { Point } from '../api'
  import { carry } from '../carry'
  import type { NamePlace, NetworkBox, NetworkLine, PlacedNetwork } from '../core/core'
  import type { Bench } from '../state/bench.svelte'
  import { Blocks } from '../state/blocks.svelte'
  import type { Drawing } from '../state/drawing.svelte'
  import BlockField from './BlockField.svelte'
  import ElementMenu from './ElementMenu.svelte'
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
  /** A name on its way, and a wire being drawn by the pointer. */
  let carried = $state<{ words: string; at: { x: number; y: number } } | null>(null)
  let drawn = $state<{ from: { x: number; y: number }; to: { x: number; y: number } } | null>(null)
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
    w: () => blocks.wires(),
    e: () => blocks.enable(),
    E: () => blocks.ask('eno'),
    '/': () => blocks.invert(),
    '+': () => blocks.more(),
    Enter: () => (blocks.wire ? blocks.wires() : blocks.edit()),
    F2: () => blocks.edit(),
    Delete: () => blocks.remove(),
    Backspace: () => blocks.remove(),
    Escape: () => (blocks.wire ? (blocks.wire = null) : (drawing.offered = null)),
    ArrowLeft: () => blocks.move(-1, 0),
    ArrowRight: () => blocks.move(1, 0),
    ArrowUp: () => blocks.move(0, -1),
    ArrowDown: () => blocks.move(0, 1),
    'Alt+ArrowUp': () => blocks.shift(-1),
    'Alt+ArrowDown': () => blocks.shift(1),
    'Ctrl+Delete': () => blocks.removeNetwork(),
    'Ctrl+c': () => blocks.copy(),
    'Ctrl+x': () => blocks.cut(),
    'Ctrl+v': () => blocks.paste(),
    'Ctrl+d': () => blocks.duplicate(),
    'Ctrl+z': () => drawing.undo(),
    'Ctrl+y': () => drawing.redo(),
    'Ctrl+Z': () => drawing.redo(),
  }
  const tools: [key: string, words: string][] = [
    ['b', 'Block'],
    ['l', 'Line'],
    ['o', 'Output'],
    ['w', 'Wire'],
    ['/', 'Invert'],
    ['+', 'Input'],
    ['e', 'EN'],
    ['r', 'Network'],
    ['Delete', 'Remove'],
  ]
  /** What is done with a whole network. */
  const whole: [key: string, words: string][] = [
    ['R', 'Network above'],
    ['t', 'Title'],
    ['m', 'Comment'],
    ['Alt+ArrowUp', 'Move up'],
    ['Alt+ArrowDown', 'Move down'],
    ['Ctrl+d', 'Double'],
    ['Ctrl+Delete', 'Remove the network'],
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
    ['w', 'a wire from here, and again where it goes; of a block w, w for its next output'],
    ['e E', 'EN on and off; where ENO goes'],
    ['l', 'a new line: mist_on => mist_valve'],
    ['Delete', 'take away'],
    ['r R', 'network below, above'],
    ['t m', 'title, comment'],
    ['Alt + ↑ ↓', 'move the network'],
    ['Ctrl + Delete', 'remove the network'],
    ['Ctrl + C X V D', 'copy, cut, paste, double the network'],
    ['menu key', 'force, watch, why …'],
    ['Ctrl + Z, Y', 'undo, redo'],
  ]
  function key(event: KeyboardEvent) {
    if (event.target !== box) return
    if (event.key === 'ContextMenu' || (event.shiftKey && event.key === 'F10')) return menuAtCursor(event)
    const letter = /^[A-Za-z_]$/.test(event.key)
    const name = (event.ctrlKey || event.metaKey ? 'Ctrl+' : event.altKey && !letter ? 'Alt+' : '') + event.key
    if (letter && name === event.key && !event.altKey && blocks.namable && !blocks.wire) {
      event.preventDefault()
      return drawing.after(() => blocks.ask('value', event.key, true))
    }
    const does = commands[name]
    if (!does) return
    event.preventDefault()
    drawing.after(does) // a key means the drawing as it is once the changes under way are made
  }
  const back = () => void tick().then(() => box?.focus({ preventScroll: true }))
  async function take(text: string) {
    back()
    await blocks.take(text)
  }
  // The cursor stays in view, but for while it goes along with the pointer.
  $effect(() => {
    void drawing.place
    if (untrack(() => drawn || carried)) return
    void tick().then(() => box?.querySelector('[data-cursor]')?.scrollIntoView({ block: 'nearest', inline: 'nearest' }))
  })

  // The mouse and the finger: a wire is drawn from a place to another, a name is carried to one. The cursor goes along, so that what would
  // be wrong there is told before one lets go.
  const placeUnder = (e: PointerEvent) => {
    const spot = document.elementFromPoint(e.clientX, e.clientY)?.closest<SVGElement>('[data-path]')
    const network = spot?.closest<HTMLElement>('[data-network]')
    if (!spot || !network || !box?.contains(network)) return null
    return { index: Number(network.dataset.network), path: spot.dataset.path!.split('.').map(Number) }
  }
  function hover(e: PointerEvent) {
    const over = placeUnder(e)
    if (over && (over.index !== blocks.index || over.path.join() !== drawing.place.path.join()))
      blocks.select(over.index, over.path)
    return over
  }
  function draw(event: PointerEvent, index: number, path: number[], output?: string) {
    if (event.button !== 0 || (event.pointerType === 'touch' && output === undefined)) return
    const from = { x: event.clientX, y: event.clientY }
    carry(
      event,
      (e) => {
        const begins = !drawn
        drawn = { from, to: { x: e.clientX, y: e.clientY } }
        if (begins) {
          blocks.select(index, path)
          blocks.from(path, output)
        }
        hover(e)
      },
      (e, was) => {
        drawn = null
        if (!was) return
        box?.focus({ preventScroll: true })
        const over = e.type === 'pointerup' ? hover(e) : null
        if (over && (over.index !== index || over.path.join() !== path.join())) void blocks.lead(over.path)
        else blocks.wire = null
      },
    )
  }
  let justCarried = false
  function carryName(event: PointerEvent, name: string) {
    let tried = ''
    carry(
      event,
      (e) => {
        const over = hover(e)
        const key = JSON.stringify(over)
        if (key !== tried) {
          tried = key
          blocks.warning = ''
          if (over) void blocks.tryName(over.path, name)
        }
        carried = { words: name, at: { x: e.clientX, y: e.clientY } }
      },
      (e, was) => {
        carried = null
        blocks.warning = ''
        if (!was) return
        justCarried = true
        setTimeout(() => (justCarried = false), 0)
        if (e.type === 'pointerup' && hover(e)) give(name)
      },
    )
  }
  function give(name: string) {
    blocks.ask('value')
    void take(name)
  }
  $effect(() => {
    const { path } = drawing.place
    if (blocks.wire) untrack(() => void blocks.tryWire(path))
  })

  // What can be done with what stands at the cursor.
  let menu = $state<{ name: string; title: string; places: NamePlace[]; at: { x: number; y: number } } | null>(null)
  function menuAtCursor(event: Event) {
    event.preventDefault()
    const spot = box?.querySelector('[data-cursor]')?.getBoundingClientRect()
    if (spot) openMenu({ x: spot.x + 8, y: spot.bottom })
  }
  function openMenu(at: { x: number; y: number }) {
    const title = blocks.named
    if (!title) return
    const unit = drawing.units[drawing.place.unit]
    const places = drawing.listed.find((v) => v.name.toLowerCase() === title.split('.')[0].toLowerCase())?.places ?? []
    menu = { name: alive ? bench!.inside(unit, title) : title, title, places, at }
  }
  function context(event: MouseEvent) {
    event.preventDefault()
    const spot = (event.target as Element).closest<SVGElement>('[data-path]')
    if (spot) {
      const index = Number(spot.closest<HTMLElement>('[data-network]')!.dataset.network)
      blocks.select(index, spot.dataset.path!.split('.').map(Number))
    }
    if (spot) openMenu({ x: event.clientX, y: event.clientY })
  }
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
          drawing.after(commands[k])
        }}>{words}</button
      >
    {/each}
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
    oncontextmenu={context}
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
            draw={(e, path, output) => draw(e, index, path, output)}
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
      <p class="p-4" class:hidden={!drawing.ready}>
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
  <NameList {drawing} {points} give={(name) => justCarried || give(name)} carry={carryName} />
  <div class="flex shrink-0 items-center gap-2 text-sm">
    <p id="blocks-cursor" role="status" class="min-w-0 grow truncate">{blocks.said}</p>
    <select
      class="select w-26 shrink-0 select-xs"
      aria-label="With the network"
      onchange={(e) => {
        const k = e.currentTarget.value
        e.currentTarget.value = ''
        back()
        drawing.after(commands[k])
      }}
    >
      <option value="">Network …</option>
      {#each whole as [k, words] (k)}<option value={k}>{words}</option>{/each}
    </select>
    <button class="btn btn-ghost btn-xs" aria-expanded={helps} onclick={() => (helps = !helps)}>Keys</button>
  </div>
  {#if drawn}<svg class="pointer-events-none fixed inset-0 z-50 size-full" aria-hidden="true"
      ><path
        d="M{drawn.from.x} {drawn.from.y}L{drawn.to.x} {drawn.to.y}"
        class="drawn"
        class:wrong={blocks.warning}
      /></svg
    >{/if}
  {#if (drawn && blocks.warning) || carried}
    {@const at = drawn?.to ?? carried!.at}
    <div
      class="pointer-events-none fixed z-50 max-w-72 rounded-field px-2 py-1 text-sm {blocks.warning
        ? 'bg-error text-error-content'
        : 'bg-primary text-primary-content'}"
      style:left="{at.x + 12}px"
      style:top="{at.y + 10}px"
    >
      {carried?.words ?? ''}
      {blocks.warning}
    </div>
  {/if}
  {#if menu}<ElementMenu
      {bench}
      {...menu}
      go={(p) => go(p.line, p.column)}
      edit={() => blocks.edit()}
      close={() => {
        menu = null
        if (!blocks.asked) back()
      }}
    />{/if}
</div>

<style>
  .drawn {
    fill: none;
    stroke: var(--color-info);
    stroke-width: 2.5;
  }
  .drawn.wrong {
    stroke: var(--color-error);
    stroke-dasharray: 5 4;
  }
</style>
