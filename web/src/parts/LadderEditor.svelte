<script lang="ts">
  // The ladder, to be drawn with keys, mouse or fingers. Only the rungs in view are in the page, so that three hundred stay fluid.
  import { tick, untrack } from 'svelte'
  import { Drawing, type Tool } from '../state/drawing.svelte'
  import type { Bench } from '../state/bench.svelte'
  import { untilLetGo } from '../held'
  import type { Item, NamePlace, Rung } from '../core/core'
  import type { Point } from '../api'
  import { frame, heightOf, layout, letter, naturalWidth, type Frame } from '../state/layout'
  import { carry as follow } from '../carry'
  import ElementMenu from './ElementMenu.svelte'
  import NameList from './NameList.svelte'
  import Overview from './Overview.svelte'
  import RungDrawing from './RungDrawing.svelte'
  import ToolSymbol from './ToolSymbol.svelte'
  import WritingField from './WritingField.svelte'

  let {
    drawing,
    points,
    bench = null,
    go,
  }: {
    drawing: Drawing
    points: Point[]
    bench?: Bench | null
    /** Shows a place of the text. */
    go?: (line: number, column: number) => void
  } = $props()

  // The rungs in view.
  let box: HTMLDivElement | undefined = $state()
  let top = $state(0)
  let along = $state(0)
  let boxHeight = $state(400)
  let boxWidth = $state(600)
  let paneHeight = $state(400)
  $effect(() => {
    const columns = Math.max(3, Math.floor((boxWidth - 90) / (12 * letter)))
    untrack(() => void drawing.fold(columns))
  })
  const heading = 26
  const said = (r: Rung) => heading + (r.comment ? 20 * r.comment.split('\n').length : 0)
  const rungHeight = (r: Rung) => heightOf(r.geometry) + said(r) + 8
  const tops = $derived.by(() => {
    const list = [0]
    for (const r of drawing.rungs) list.push(list[list.length - 1] + rungHeight(r))
    return list
  })
  /** All rungs end at one rail, as far to the right as the widest needs it. */
  const rail = $derived(Math.min(boxWidth - 40, Math.max(380, ...drawing.rungs.map((r) => naturalWidth(r) + 40))))
  const first = $derived(Math.max(0, tops.findIndex((y) => y > top - 300) - 1))
  const last = $derived.by(() => {
    const n = tops.findIndex((y) => y > top + boxHeight + 300)
    return n < 0 ? drawing.rungs.length : n
  })
  const seen = $derived(drawing.rungs.slice(first, last))
  $effect(() => {
    const shown = seen.length ? { from: seen[0].start, to: seen[seen.length - 1].end } : { from: 0, to: 0 }
    untrack(() => bench?.see(seen, shown))
  })
  /** The power is of the text that runs; while another is written there is none. */
  const alive = $derived(bench?.loaded && bench.text === drawing.draft.text)
  const flow = (start: number) => (alive ? bench!.flow(start) : undefined)
  const face = (r: Rung) => (i: Item) => (alive ? bench!.face(bench!.inside(drawing.units[r.unit], i.label), i) : '')

  // The cursor stays in view.
  $effect(() => {
    const n = drawing.index
    void drawing.place
    untrack(() => {
      if (!box || n < 0) return
      // What is known is not asked of the page, which would have to be laid out for it.
      if (tops[n] < top) box.scrollTop = tops[n]
      else if (tops[n + 1] > top + boxHeight) box.scrollTop = Math.max(0, Math.min(tops[n], tops[n + 1] - boxHeight))
    })
  })

  /** Where the element at the cursor stands in the pane: there it is written. */
  const padding = 9
  const written = $derived.by((): Frame => {
    const r = drawing.rung
    const down = padding - top
    if (!r) return { x: padding + 60 - along, y: down + 40, width: 80, height: 48 }
    const y = tops[drawing.index] + down
    const what = drawing.writing?.what
    if (what === 'title' || what === 'comment') return { x: padding + 200 - along, y, width: 80, height: 24 }
    const g = r.geometry
    const f = frame(layout(r, rail, { face: face(r) }), g, g.spots[drawing.spot], face(r))
    return { ...f, x: f.x + padding - along, y: f.y + y + said(r) }
  })

  // Where nothing is written any more, the keys are the drawing's again.
  let wrote = false
  $effect(() => {
    const writes = !!drawing.writing
    if (wrote && !writes)
      void tick().then(() => document.activeElement === document.body && box?.focus({ preventScroll: true }))
    wrote = writes
  })

  const tools: [tool: Tool, key: string, words: string][] = [
    ['contact', 'c', 'Contact'],
    ['coil', 'o', 'Coil'],
    ['block', 'b', 'Block'],
    ['branch', 'p', 'Branch'],
    ['rung', 'r', 'Rung'],
  ]

  const commands: Record<string, () => unknown> = {
    c: () => drawing.put('contact'),
    o: () => drawing.put('coil'),
    b: () => drawing.put('block'),
    p: () => drawing.branch(),
    P: () => drawing.branch(true),
    r: () => drawing.addRung(),
    R: () => drawing.addRung(true),
    '/': () => drawing.invert(),
    k: () => drawing.kind(),
    n: () => drawing.nextUnnamed() && drawing.edit(),
    t: () => drawing.write({ what: 'title', text: drawing.rung?.geometry.title ?? '' }),
    m: () => drawing.write({ what: 'comment', text: drawing.rung?.comment ?? '' }),
    d: () => drawing.declare(drawing.offered?.types[0] ?? ''),
    Enter: () => drawing.edit(),
    F2: () => drawing.edit(),
    Delete: () => drawing.remove(),
    Backspace: () => drawing.remove(true),
    Escape: () => {
      drawing.anchor = null
      drawing.offered = null
    },
    Home: () => drawing.go(drawing.index),
    End: () => drawing.stand(drawing.index, drawing.rung!.geometry.spots.length - 1),
    PageUp: () => drawing.go(Math.max(0, drawing.index - 5)),
    PageDown: () => drawing.go(Math.min(drawing.rungs.length - 1, drawing.index + 5)),
    'Ctrl+Home': () => drawing.go(0),
    'Ctrl+End': () => drawing.go(drawing.rungs.length - 1),
    'Ctrl+z': () => drawing.undo(),
    'Ctrl+y': () => drawing.redo(),
    'Ctrl+Z': () => drawing.redo(),
    'Ctrl+c': () => drawing.copy(),
    'Ctrl+x': () => drawing.cut(),
    'Ctrl+v': () => drawing.paste(),
    'Ctrl+d': () => drawing.duplicate(),
    'Ctrl+f': () => {
      more = true
      void tick().then(() => finder?.focus())
    },
    'Alt+ArrowUp': () => drawing.moveRung(-1),
    'Alt+ArrowDown': () => drawing.moveRung(1),
    ArrowLeft: () => drawing.move(0),
    ArrowRight: () => drawing.move(1),
    ArrowUp: () => drawing.move(2),
    ArrowDown: () => drawing.move(3),
    'Shift+ArrowLeft': () => drawing.move(0, true),
    'Shift+ArrowRight': () => drawing.move(1, true),
  }

  function key(event: KeyboardEvent) {
    const held =
      (event.ctrlKey || event.metaKey ? 'Ctrl+' : '') +
      (event.altKey ? 'Alt+' : '') +
      (event.shiftKey && event.key.startsWith('Arrow') ? 'Shift+' : '')
    if (!held && drawing.typedAhead(event.key)) return event.preventDefault()
    if (event.key === 'ContextMenu' || (event.shiftKey && event.key === 'F10')) return menuAtCursor(event)
    // Where a name can be meant a letter begins one; with Alt it is the tool everywhere.
    if (!held && /^[A-Za-z_]$/.test(event.key) && drawing.namable) {
      event.preventDefault()
      return drawing.typeName(event.key)
    }
    const command =
      commands[held + event.key] ?? (/^[A-Za-z]$/.test(event.key) && held === 'Alt+' ? commands[event.key] : undefined)
    if (!command) return
    event.preventDefault()
    if (/^(n|Enter|F2)$/.test(event.key)) drawing.open(command)
    else if (/Arrow|Home|End|Page/.test(event.key)) drawing.after(command)
    else void command()
  }

  // The mouse and the finger: a spot is chosen by a press; a tool or a name is carried to one.
  let carried = $state<{ words: string; drop: Drop } | null>(null)
  let carriedAt = $state({ x: 0, y: 0 })

  function spotAt(x: number, y: number): { rung: number; spot: number } | null {
    const hit = document.elementFromPoint(x, y)
    const rung = hit?.closest<HTMLElement>('[data-rung]')
    if (!rung || !box?.contains(rung)) return null
    const spot = hit!.getAttribute('data-spot') ?? nearestSpot(rung, x, y)
    return spot === null ? null : { rung: Number(rung.dataset.rung), spot: Number(spot) }
  }
  function nearestSpot(rung: HTMLElement, x: number, y: number): string | null {
    let best: string | null = null
    let least = Infinity
    for (const e of rung.querySelectorAll('[data-spot]')) {
      const r = e.getBoundingClientRect()
      const far = Math.abs(r.x + r.width / 2 - x) + 2 * Math.abs(r.y + r.height / 2 - y)
      if (far < least) [best, least] = [e.getAttribute('data-spot'), far]
    }
    return best
  }
  function press(event: PointerEvent) {
    const joint = (event.target as Element).closest<SVGElement>('[data-joint]')
    if (joint) return draw(event, joint)
    const at = spotAt(event.clientX, event.clientY)
    box?.focus({ preventScroll: true })
    if (!at) return
    drawing.stand(at.rung, at.spot, event.shiftKey)
    if (event.button !== 0 || event.shiftKey) return
    const device =
      bench?.running && alive && drawing.item?.kind === 'contact' ? bench.deviceOf(drawing.item.label) : undefined
    if (device) return untilLetGo((down) => bench?.hand(device, down)) // as on the panel
    if (!drawing.item) return
    if (event.pointerType === 'touch') return linger(event) // a finger that moves scrolls
    const from = { rung: at.rung, path: drawing.place.path }
    carry(event, drawing.item.label || drawing.item.type || drawing.item.kind, (e, to) =>
      drawing.carry(from, to, e.ctrlKey),
    )
  }
  /** A finger that stays opens the menu, also where the browser has none of its own for it. */
  function linger(event: PointerEvent) {
    const at = { x: event.clientX, y: event.clientY }
    const timer = setTimeout(() => menu ?? void openMenu(at), 600)
    const kinds = ['pointerup', 'pointercancel', 'pointermove'] as const
    const end = (e: PointerEvent) => {
      if (e.type === 'pointermove' && Math.hypot(e.clientX - at.x, e.clientY - at.y) < 10) return
      clearTimeout(timer)
      for (const kind of kinds) removeEventListener(kind, end)
    }
    for (const kind of kinds) addEventListener(kind, end)
  }
  /** A wire drawn from one point of a series to another: a branch. */
  let wire = $state<{ from: { x: number; y: number }; to: { x: number; y: number } } | null>(null)
  function draw(event: PointerEvent, joint: Element) {
    event.preventDefault()
    box?.focus({ preventScroll: true })
    const middle = (e: Element) => {
      const r = e.getBoundingClientRect()
      return { x: r.x + r.width / 2, y: r.y + r.height / 2 }
    }
    const from = middle(joint)
    wire = { from, to: from }
    const [series, index] = joint.getAttribute('data-joint')!.split('|')
    const rung = Number(joint.closest<HTMLElement>('[data-rung]')!.dataset.rung)
    const move = (e: PointerEvent) => (wire = { from, to: { x: e.clientX, y: e.clientY } })
    const end = (e: PointerEvent) => {
      removeEventListener('pointermove', move)
      removeEventListener('pointerup', end)
      removeEventListener('pointercancel', end)
      wire = null
      if (Math.hypot(e.clientX - event.clientX, e.clientY - event.clientY) < 6) {
        // A press that draws nothing is one on the place beneath.
        const spot = nearestSpot(joint.closest<HTMLElement>('[data-rung]')!, e.clientX, e.clientY)
        return spot === null ? undefined : drawing.stand(rung, Number(spot), e.shiftKey)
      }
      const there = [...joint.closest('[data-rung]')!.querySelectorAll<SVGElement>(`[data-joint^="${series}|"]`)]
      const far = (j: Element) => Math.hypot(middle(j).x - e.clientX, middle(j).y - e.clientY)
      const to = there.sort((a, b) => far(a) - far(b))[0]
      if (e.type !== 'pointerup' || !to || far(to) > 40) return
      const path = series ? series.split(',').map(Number) : []
      void drawing.branchBetween(rung, path, Number(index), Number(to.getAttribute('data-joint')!.split('|')[1]))
    }
    addEventListener('pointermove', move)
    addEventListener('pointerup', end)
    addEventListener('pointercancel', end)
  }

  // What can be done with an element.
  let menu = $state<{ name: string; title: string; places: NamePlace[]; at: { x: number; y: number } } | null>(null)
  function menuAtCursor(event: Event) {
    event.preventDefault()
    const spot = box?.querySelector('[data-cursor]')?.getBoundingClientRect()
    if (spot) void openMenu({ x: spot.x + 8, y: spot.bottom })
  }
  async function openMenu(at: { x: number; y: number }) {
    const i = drawing.item
    if (!i) return
    const label = i.label || i.type
    const places = drawing.listed.find((v) => v.name.toLowerCase() === label.split('.')[0].toLowerCase())?.places ?? []
    const unit = drawing.units[drawing.place.unit]
    menu = {
      name: alive ? bench!.inside(unit, label) : label,
      title: label || i.kind,
      places,
      at,
    }
  }
  function context(event: MouseEvent) {
    event.preventDefault()
    const at = spotAt(event.clientX, event.clientY)
    if (!at) return
    drawing.stand(at.rung, at.spot)
    void openMenu({ x: event.clientX, y: event.clientY })
  }
  /** To the rung in whose lines something stands, else to its line in the text. */
  function toPlace(p: NamePlace) {
    const n = drawing.rungs.findLastIndex((r) => r.line <= p.line && p.offset < r.end)
    if (n >= 0) drawing.go(n)
    else go?.(p.line, p.column)
  }

  type Drop = (event: PointerEvent, at: { rung: number; spot: number }) => unknown
  function carry(event: PointerEvent, words: string, drop: Drop) {
    const move = (e: PointerEvent) => {
      carried = { words, drop }
      carriedAt = { x: e.clientX, y: e.clientY }
    }
    const end = (e: PointerEvent, was: boolean) => {
      if (!was) return
      carried = null
      justCarried = true
      setTimeout(() => (justCarried = false), 0)
      const at = e.type === 'pointerup' ? spotAt(e.clientX, e.clientY) : null
      if (!at) return
      drawing.stand(at.rung, at.spot)
      box?.focus({ preventScroll: true })
      void drop(e, at)
    }
    follow(event, move, end)
  }
  /** A press that carried something is no press of the button. */
  let justCarried = false

  /** Gives the element at the cursor a name; on a bare wire it is a contact's. */
  function give(name: string) {
    if (drawing.item) return drawing.item.kind !== 'box' ? drawing.name(name, 'stay') : undefined
    drawing.write({ what: 'name', text: name, fresh: true })
    return drawing.name(name)
  }

  // Finding.
  let finder: HTMLInputElement | undefined = $state()
  let wanted = $state('')
  const found = $derived(drawing.find(wanted))
  function toFound(by: 1 | -1) {
    const next =
      by > 0
        ? (found.find((n) => n > drawing.index) ?? found[0])
        : (found.findLast((n) => n < drawing.index) ?? found.at(-1))
    if (next !== undefined) drawing.go(next)
  }
  let helps = $state(false)
  let more = $state(false)
  const keys: [string, string][] = [
    ['arrows', 'move'],
    ['Shift + arrows', 'choose several'],
    ['c o b', 'contact, coil, block'],
    ['p', 'branch, with a contact in it'],
    ['P', 'one branch more'],
    ['r R', 'rung below, above'],
    ['Enter', 'name, pins'],
    ['letters', 'a name, where there is none'],
    ['Alt + letter', 'the tool, wherever'],
    ['menu key', 'force, watch, why …'],
    ['/', 'invert'],
    ['k', 'next kind'],
    ['n', 'next without a name'],
    ['t m', 'title, comment'],
    ['Delete', 'take out'],
    ['Ctrl+C X V D', 'copy, cut, paste, double'],
    ['Alt + arrows', 'move the rung'],
    ['Ctrl+Z Y', 'undo, redo'],
    ['Ctrl+F', 'find'],
  ]
  const wrongs = $derived(drawing.wrong)
  const unnamed = $derived(drawing.unnamed)
</script>

<section aria-label="Drawing" class="@container flex min-h-0 min-w-0 grow flex-col gap-1">
  <div class="tools" role="toolbar" aria-label="Tools">
    {#each tools as [tool, short, words] (tool)}
      <button
        class="btn touch-none"
        title="{words} ({short}); or carry it into a rung"
        aria-keyshortcuts={short}
        onpointerdown={(e) => tool !== 'rung' && carry(e, words, () => drawing.put(tool))}
        onclick={() => {
          if (!justCarried) void drawing.put(tool)
          if (!drawing.writing) box?.focus({ preventScroll: true })
        }}
        ><span class="flex items-center gap-1"
          ><ToolSymbol {tool} /><kbd class="kbd kbd-xs" aria-hidden="true">{short}</kbd></span
        ><span class="words">{words}</span></button
      >
    {/each}
    <span class="mx-0.5 h-5 shrink-0 border-l border-base-300"></span>
    {#snippet act(tool: string, words: string, short: string, work: () => unknown, off: boolean)}
      <button
        class="btn btn-ghost"
        disabled={off}
        title="{words} ({short})"
        aria-label={words}
        onclick={() => {
          void work()
          if (!drawing.writing) box?.focus({ preventScroll: true })
        }}><ToolSymbol {tool} /><span class="words" aria-hidden="true">{words}</span></button
      >
    {/snippet}
    {@render act('name', 'Name', 'Enter', () => drawing.edit(), !drawing.item)}
    {@render act('invert', 'Invert', '/', () => drawing.invert(), !drawing.kinds().length)}
    {@render act('out', 'Take out', 'Delete', () => drawing.remove(true), false)}
    {@render act('undo', 'Undo', 'Ctrl+Z', () => drawing.undo(), false)}
    {@render act('redo', 'Redo', 'Ctrl+Y', () => drawing.redo(), false)}
  </div>
  {#if more}
    <div class="flex flex-wrap items-center gap-1 text-sm">
      <label class="flex items-center gap-2"
        >Find
        <input
          bind:this={finder}
          class="input input-xs w-32 font-mono"
          bind:value={wanted}
          onkeydown={(e) => {
            if (e.key === 'Enter') {
              e.preventDefault()
              toFound(e.shiftKey ? -1 : 1)
            }
            if (e.key === 'Escape') {
              wanted = ''
              more = false
              box?.focus()
            }
          }}
        />
      </label>
      {#if wanted}<span role="status"
          >{found.length ? `in ${found.length} of ${drawing.rungs.length} rungs` : 'nowhere'}</span
        >{/if}
      <span class="ml-auto flex flex-wrap gap-1">
        <button class="btn btn-ghost btn-xs" title="Alt+↑" onclick={() => drawing.moveRung(-1)}>Rung up</button>
        <button class="btn btn-ghost btn-xs" title="Alt+↓" onclick={() => drawing.moveRung(1)}>Rung down</button>
        <button class="btn btn-ghost btn-xs" title="Ctrl+D" onclick={() => drawing.duplicate()}>Double the rung</button>
        <button
          class="btn btn-ghost btn-xs"
          title="t"
          onclick={() => drawing.write({ what: 'title', text: drawing.rung?.geometry.title ?? '' })}>Title</button
        >
        <button
          class="btn btn-ghost btn-xs"
          title="m"
          onclick={() => drawing.write({ what: 'comment', text: drawing.rung?.comment ?? '' })}>Comment</button
        >
        {#if bench?.loaded}<button
            class="btn btn-ghost btn-xs"
            onclick={() => bench.watchAll(drawing.rungs.flatMap((r) => bench.namesOf(r)))}>Watch the program</button
          >{/if}
      </span>
    </div>
  {/if}
  {#if helps}
    <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
    <dl class="keys max-h-28 shrink-0 overflow-y-auto rounded-box bg-base-200 p-2 text-xs" tabindex="0">
      {#each keys as [k, does] (k)}<div class="flex gap-2">
          <dt class="font-mono font-semibold whitespace-nowrap">{k}</dt>
          <dd>{does}</dd>
        </div>{/each}
    </dl>
    <label class="flex items-center gap-2 text-xs"
      ><input type="checkbox" class="checkbox checkbox-xs" bind:checked={drawing.asks} />Ask for the name as soon as an
      element is placed</label
    >
  {/if}
  <div class="relative flex min-h-0 grow gap-1" bind:clientHeight={paneHeight}>
    <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
    <div
      bind:this={box}
      bind:clientHeight={boxHeight}
      bind:clientWidth={boxWidth}
      onscroll={(e) => {
        top = e.currentTarget.scrollTop
        along = e.currentTarget.scrollLeft
      }}
      class="ladder min-w-0 contain-content grow overflow-auto rounded-box border border-base-300 p-2"
      role="application"
      tabindex="0"
      aria-label="Ladder"
      aria-roledescription="drawing"
      aria-describedby="ladder-cursor"
      onkeydown={key}
      onpointerdown={press}
      oncontextmenu={context}
      ondblclick={() => !bench?.running && drawing.edit()}
    >
      <div style:height="{tops[first]}px"></div>
      {#each seen as r, n (r.unit + ':' + r.number)}
        {@const index = first + n}
        {@const here = index === drawing.index}
        {@const wrong = wrongs.call(drawing, r)}
        <div data-rung={index} class="relative" style:height="{rungHeight(r)}px">
          <p class="flex h-6.5 items-center gap-2 text-sm" class:font-semibold={here}>
            <span class="tabular-nums opacity-80">{index + 1}</span>
            {#if r.number === 0 && drawing.units.filter((u) => u.ladder).length > 1}<span class="badge badge-sm"
                >{drawing.units[r.unit]?.name}</span
              >{/if}
            <span>{r.geometry.title}</span>
            {#if wrong[-1]}<span class="text-error text-xs">{wrong[-1].words}</span>{/if}
            {#if here && alive}<button
                class="btn btn-ghost btn-xs font-normal"
                tabindex="-1"
                onpointerdown={(e) => e.stopPropagation()}
                onclick={() => bench?.watchAll(bench.namesOf(r))}>Watch this rung</button
              >{/if}
          </p>
          {#if r.comment}{#each r.comment.split('\n') as line, i (i)}<p class="h-5 truncate text-xs italic opacity-80">
                {line}
              </p>{/each}{/if}
          <RungDrawing
            rung={r}
            {flow}
            face={face(r)}
            width={rail}
            cursor={here ? drawing.spot : null}
            chosen={here ? drawing.chosen : []}
            {wrong}
            editable
          />
        </div>
      {:else}
        <p class="p-4" class:hidden={!drawing.ready}>
          There is no rung yet. Press <kbd class="kbd">r</kbd>, or the button Rung, for the first; then
          <kbd class="kbd">c</kbd>
          for a contact and <kbd class="kbd">o</kbd> for a coil.
        </p>
      {/each}
      <div style:height="{(tops.at(-1) ?? 0) - (tops[last] ?? 0)}px"></div>
    </div>
    {#if drawing.rungs.length > 6}<Overview
        {drawing}
        {tops}
        {top}
        height={boxHeight}
        {found}
        go={(n) => drawing.go(n)}
      />{/if}
    {#if drawing.writing}
      {#key drawing.writing.what}<WritingField
          {drawing}
          {points}
          at={written}
          room={{ width: boxWidth + 18, height: paneHeight }}
          done={() => box?.focus({ preventScroll: true })}
        />{/key}
    {/if}
  </div>
  <div class="flex shrink-0 items-center gap-1">
    <p id="ladder-cursor" role="status" class="min-w-0 truncate text-sm" title={drawing.said}>{drawing.said}</p>
    <span class="ml-auto"></span>
    <select
      class="select w-34 shrink-0 select-xs"
      aria-label="Kind"
      title="Kind (k)"
      disabled={!drawing.kinds().length}
      value={drawing.item?.mark ?? ''}
      onchange={(e) => drawing.kind(e.currentTarget.value)}
    >
      {#each drawing.kinds() as k (k.mark)}<option value={k.mark}>{k.words}</option>{/each}
    </select>
    <button class="btn btn-ghost px-2 btn-xs shrink-0" aria-expanded={more} onclick={() => (more = !more)}
      >Rung …</button
    >
    <button class="btn btn-ghost px-2 btn-xs shrink-0" aria-expanded={helps} onclick={() => (helps = !helps)}
      >Keys</button
    >
  </div>
  {#if drawing.problem}<p class="alert alert-soft" role="alert">{drawing.problem}</p>{/if}
  {#if drawing.offered}
    <p class="flex flex-wrap items-center gap-2 rounded-field bg-base-200 px-3 py-2 text-sm" role="alert">
      <span><b class="font-mono">{drawing.offered.name}</b> is new here.</span>
      {#each drawing.offered.types as type, n (type)}<button
          class="btn btn-sm"
          onclick={() => {
            void drawing.declare(type)
            box?.focus({ preventScroll: true })
          }}>Declare it as {type}{n ? '' : ' (d)'}</button
        >{/each}
    </p>
  {/if}
  {#if unnamed.length}
    <p class="text-sm">
      Without a name:
      {#each unnamed.slice(0, 6) as u, n (n)}{n ? ', ' : ' '}<button
          class="link"
          onclick={() => {
            drawing.go(u.rung, u.path)
            drawing.edit()
          }}>{u.kind} in rung {u.rung + 1}</button
        >{/each}{unnamed.length > 6 ? ` and ${unnamed.length - 6} more` : ''}
    </p>
  {/if}
  <NameList {drawing} {points} {give} carry={(e, name) => carry(e, name, () => give(name))} />
  {#if wire}<svg class="pointer-events-none fixed inset-0 z-50 size-full" aria-hidden="true"
      ><path d="M{wire.from.x} {wire.from.y}V{wire.to.y}H{wire.to.x}" class="drawn-wire" /></svg
    >{/if}
  {#if menu}<ElementMenu
      {bench}
      {...menu}
      go={toPlace}
      edit={() => drawing.edit()}
      close={() => {
        menu = null
        if (!drawing.writing) box?.focus({ preventScroll: true })
      }}
    />{/if}
  {#if carried}<div
      class="pointer-events-none fixed z-50 rounded-field bg-primary px-2 py-1 text-sm text-primary-content"
      style:left="{carriedAt.x + 12}px"
      style:top="{carriedAt.y + 8}px"
    >
      {carried.words}
    </div>{/if}
</section>

<style>
  .tools {
    display: flex;
    align-items: center;
    gap: 0.15rem;
    overflow-x: auto;
    scrollbar-width: none;
    flex-shrink: 0;
  }
  .tools > :global(*) {
    flex-shrink: 0;
  }
  .tools button {
    flex-direction: column;
    gap: 0.1rem;
    height: auto;
    min-height: 2.4rem;
    padding: 0.15rem 0.3rem;
  }
  .keys {
    display: grid;
    grid-template-columns: repeat(auto-fill, minmax(14rem, 1fr));
    gap: 0.1rem 1rem;
  }
  .words {
    font-size: 0.7rem;
    font-weight: 500;
    line-height: 1;
  }
  .drawn-wire {
    fill: none;
    stroke: var(--color-info);
    stroke-width: 2.5;
    stroke-dasharray: 6 4;
  }
</style>
