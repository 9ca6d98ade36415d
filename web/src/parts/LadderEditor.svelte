<script lang="ts">
  // The ladder, to be drawn with keys, mouse or fingers. Only the rungs in view are in the page, so that three hundred stay fluid.
  import { tick, untrack } from 'svelte'
  import { Drawing, type Tool } from '../state/drawing.svelte'
  import type { Bench } from '../state/bench.svelte'
  import type { Rung } from '../core/core'
  import type { Point } from '../api'
  import NameList from './NameList.svelte'
  import Overview from './Overview.svelte'
  import RungDrawing from './RungDrawing.svelte'
  import WritingField from './WritingField.svelte'

  let { drawing, points, bench = null, height = 'h-112' }: { drawing: Drawing; points: Point[]; bench?: Bench | null; height?: string } = $props()


  // The rungs in view.
  let box: HTMLDivElement | undefined = $state()
  let top = $state(0)
  let boxHeight = $state(400)
  let boxWidth = $state(600)
  const letter = 7.4
  $effect(() => {
    const columns = Math.max(3, Math.floor((boxWidth - 90) / (12 * letter)))
    untrack(() => void drawing.fold(columns))
  })
  const heading = 26
  const heightOf = (r: Rung) => r.geometry.Rows * 50 + 14 + heading + (r.comment ? 20 * r.comment.split('\n').length : 0) + 8
  const tops = $derived.by(() => {
    const list = [0]
    for (const r of drawing.rungs) list.push(list[list.length - 1] + heightOf(r))
    return list
  })
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
  const face = (r: Rung) => (label: string, type: string) => (alive ? bench!.face(bench!.inside(drawing.units[r.unit], label), type) : '')

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

  // Where nothing is written any more, the keys are the drawing's again.
  let wrote = false
  $effect(() => {
    const writes = !!drawing.writing
    if (wrote && !writes) void tick().then(() => document.activeElement === document.body && box?.focus({ preventScroll: true }))
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
    R: () => drawing.addRung(undefined, true),
    '/': () => drawing.invert(),
    k: () => drawing.kind(),
    n: () => drawing.nextUnnamed() && drawing.edit(),
    t: () => drawing.write({ what: 'title', text: drawing.rung?.geometry.Title ?? '' }),
    m: () => drawing.write({ what: 'comment', text: drawing.rung?.comment ?? '' }),
    d: () => drawing.declare(drawing.offered?.types[0] ?? ''),
    Enter: () => drawing.edit(),
    F2: () => drawing.edit(),
    Delete: () => drawing.remove(),
    Backspace: () => drawing.remove(true),
    Escape: () => { drawing.anchor = null; drawing.offered = null },
    Home: () => drawing.go(drawing.index),
    End: () => drawing.stand(drawing.index, drawing.rung!.geometry.Spots.length - 1),
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
    'Ctrl+f': () => finder?.focus(),
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
    const held = (event.ctrlKey || event.metaKey ? 'Ctrl+' : '') + (event.altKey ? 'Alt+' : '') + (event.shiftKey && event.key.startsWith('Arrow') ? 'Shift+' : '')
    const command = commands[held + event.key]
    if (!command) return
    event.preventDefault()
    if (/Arrow|Home|End|Page|Enter|F2|^n$/.test(event.key)) drawing.after(command)
    else void command()
  }

  // The mouse and the finger: a spot is chosen by a press; a tool or a name is carried to one.
  let carried = $state<{ words: string; drop: () => unknown } | null>(null)
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
    const at = spotAt(event.clientX, event.clientY)
    box?.focus({ preventScroll: true })
    if (at) drawing.stand(at.rung, at.spot, event.shiftKey)
  }
  function carry(event: PointerEvent, words: string, drop: () => unknown) {
    const from = { x: event.clientX, y: event.clientY }
    const move = (e: PointerEvent) => {
      if (!carried && Math.abs(e.clientX - from.x) + Math.abs(e.clientY - from.y) < 8) return
      carried = { words, drop }
      carriedAt = { x: e.clientX, y: e.clientY }
    }
    const end = (e: PointerEvent) => {
      removeEventListener('pointermove', move)
      removeEventListener('pointerup', end)
      removeEventListener('pointercancel', end)
      if (!carried) return
      carried = null
      justCarried = true
      setTimeout(() => (justCarried = false), 0)
      const at = e.type === 'pointerup' ? spotAt(e.clientX, e.clientY) : null
      if (!at) return
      drawing.stand(at.rung, at.spot)
      box?.focus({ preventScroll: true })
      void drop()
    }
    addEventListener('pointermove', move)
    addEventListener('pointerup', end)
    addEventListener('pointercancel', end)
  }
  /** A press that carried something is no press of the button. */
  let justCarried = false

  const give = (name: string) => (drawing.item && drawing.item.Kind !== 'box' ? drawing.name(name, 'stay') : undefined)

  // Finding.
  let finder: HTMLInputElement | undefined = $state()
  let wanted = $state('')
  const found = $derived(drawing.find(wanted))
  function toFound(by: 1 | -1) {
    const next = by > 0 ? (found.find((n) => n > drawing.index) ?? found[0]) : (found.findLast((n) => n < drawing.index) ?? found.at(-1))
    if (next !== undefined) drawing.go(next)
  }
  let helps = $state(false)
  const keys: [string, string][] = [
    ['arrows', 'move'], ['Shift + arrows', 'choose several'], ['c o b', 'contact, coil, block'], ['p', 'branch below'], ['P', 'one branch more'],
    ['r R', 'rung below, above'], ['Enter', 'name, pins'], ['/', 'invert'], ['k', 'next kind'], ['n', 'next without a name'], ['t m', 'title, comment'],
    ['Delete', 'take out'], ['Ctrl+C X V D', 'copy, cut, paste, double'], ['Alt + arrows', 'move the rung'], ['Ctrl+Z Y', 'undo, redo'], ['Ctrl+F', 'find'],
  ]
  const wrongs = $derived(drawing.wrong)
  const unnamed = $derived(drawing.unnamed)
</script>

<section aria-label="Drawing" class="flex min-w-0 flex-col gap-2">
  <div class="flex flex-wrap items-center gap-1" role="toolbar" aria-label="Tools">
    {#each tools as [tool, short, words] (tool)}
      <button class="btn btn-sm touch-none" title="{words} ({short}); or carry it into a rung" onpointerdown={(e) => tool !== 'rung' && carry(e, words, () => drawing.put(tool))}
        onclick={() => { if (!justCarried) void drawing.put(tool); if (!drawing.writing) box?.focus({ preventScroll: true }) }}>{words}</button>
    {/each}
    <span class="mx-1 h-5 border-l border-base-300"></span>
    <button class="btn btn-sm" disabled={!drawing.item} onclick={() => drawing.edit()}>Name</button>
    <button class="btn btn-sm" disabled={!drawing.kinds().length} onclick={() => drawing.invert()}>Invert</button>
    <select class="select select-sm w-40" aria-label="Kind" disabled={!drawing.kinds().length} value={drawing.item?.Mark ?? ''} onchange={(e) => drawing.kind(e.currentTarget.value)}>
      {#each drawing.kinds() as k (k.mark)}<option value={k.mark}>{k.words}</option>{/each}
    </select>
    <button class="btn btn-sm" onclick={() => drawing.remove(true)}>Take out</button>
    <button class="btn btn-ghost btn-sm" onclick={() => drawing.undo()}>Undo</button>
    <button class="btn btn-ghost btn-sm" onclick={() => drawing.redo()}>Redo</button>
    <button class="btn btn-ghost btn-sm ml-auto" aria-expanded={helps} onclick={() => (helps = !helps)}>Keys</button>
  </div>
  {#if helps}
    <dl class="grid grid-cols-2 gap-x-4 gap-y-0.5 rounded-box bg-base-200 p-2 text-xs sm:grid-cols-3">
      {#each keys as [k, does] (k)}<div class="flex gap-2"><dt class="font-mono font-semibold">{k}</dt><dd>{does}</dd></div>{/each}
    </dl>
    <label class="flex items-center gap-2 text-xs"><input type="checkbox" class="checkbox checkbox-xs" bind:checked={drawing.asks} />Ask for the name as soon as an element is placed</label>
  {/if}
  <div class="flex gap-1">
    <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
    <div
      bind:this={box} bind:clientHeight={boxHeight} bind:clientWidth={boxWidth} onscroll={(e) => (top = e.currentTarget.scrollTop)}
      class="ladder {height} min-w-0 contain-content grow overflow-auto rounded-box border border-base-300 p-2" role="application" tabindex="0" aria-label="Ladder" aria-roledescription="drawing" aria-describedby="ladder-cursor"
      onkeydown={key} onpointerdown={press} ondblclick={() => drawing.edit()}>
      <div style:height="{tops[first]}px"></div>
      {#each seen as r, n (r.unit + ':' + r.number)}
        {@const index = first + n}
        {@const here = index === drawing.index}
        {@const wrong = wrongs.call(drawing, r)}
        <div data-rung={index} class="relative" style:height="{heightOf(r)}px">
          <p class="flex h-6.5 items-center gap-2 text-sm" class:font-semibold={here}>
            <span class="tabular-nums opacity-80">{index + 1}</span>
            {#if r.number === 0 && drawing.units.filter((u) => u.ladder).length > 1}<span class="badge badge-sm">{drawing.units[r.unit]?.name}</span>{/if}
            <span>{r.geometry.Title}</span>
            {#if wrong[-1]}<span class="text-error text-xs">{wrong[-1].words}</span>{/if}
          </p>
          {#if r.comment}{#each r.comment.split('\n') as line, i (i)}<p class="h-5 truncate text-xs italic opacity-80">{line}</p>{/each}{/if}
          <RungDrawing rung={r} {flow} face={face(r)} width={boxWidth - 40} cursor={here ? drawing.spot : null} chosen={here ? drawing.chosen : []} {wrong} editable />
        </div>
      {:else}
        <p class="p-4">There is no rung yet. Press <kbd class="kbd">r</kbd>, or the button Rung, for the first; then <kbd class="kbd">c</kbd> for a contact and <kbd class="kbd">o</kbd> for a coil.</p>
      {/each}
      <div style:height="{(tops.at(-1) ?? 0) - (tops[last] ?? 0)}px"></div>
    </div>
    {#if drawing.rungs.length > 6}<Overview {drawing} {tops} {top} height={boxHeight} {found} go={(n) => drawing.go(n)} />{/if}
  </div>
  {#if drawing.writing}
    {#key drawing.writing.what}<WritingField {drawing} {points} done={() => box?.focus({ preventScroll: true })} />{/key}
  {/if}
  <p id="ladder-cursor" role="status" class="text-sm">{drawing.said}</p>
  {#if drawing.problem}<p class="alert alert-soft" role="alert">{drawing.problem}</p>{/if}
  {#if drawing.offered}
    <p class="flex flex-wrap items-center gap-2 rounded-field bg-base-200 px-3 py-2 text-sm" role="alert">
      <span><b class="font-mono">{drawing.offered.name}</b> is new here.</span>
      {#each drawing.offered.types as type, n (type)}<button class="btn btn-sm" onclick={() => { void drawing.declare(type); box?.focus({ preventScroll: true }) }}>Declare it as {type}{n ? '' : ' (d)'}</button>{/each}
    </p>
  {/if}
  {#if unnamed.length}
    <p class="text-sm">Without a name:
      {#each unnamed.slice(0, 6) as u, n (n)}{n ? ', ' : ' '}<button class="link" onclick={() => { drawing.go(u.rung, u.path); drawing.edit() }}>{u.kind} in rung {u.rung + 1}</button>{/each}{unnamed.length > 6 ? ` and ${unnamed.length - 6} more` : ''}
    </p>
  {/if}
  <div class="flex flex-wrap items-center gap-2">
    <label class="flex items-center gap-2 text-sm">Find
      <input bind:this={finder} class="input input-sm w-40 font-mono" bind:value={wanted} onkeydown={(e) => { if (e.key === 'Enter') { e.preventDefault(); toFound(e.shiftKey ? -1 : 1) } if (e.key === 'Escape') { wanted = ''; box?.focus() } }} />
    </label>
    {#if wanted}<span role="status" class="text-sm">{found.length ? `in ${found.length} of ${drawing.rungs.length} rungs` : 'nowhere'}</span>{/if}
    <span class="ml-auto flex flex-wrap gap-1">
      <button class="btn btn-ghost btn-xs" onclick={() => drawing.moveRung(-1)}>Rung up</button>
      <button class="btn btn-ghost btn-xs" onclick={() => drawing.moveRung(1)}>Rung down</button>
      <button class="btn btn-ghost btn-xs" onclick={() => drawing.duplicate()}>Double the rung</button>
      <button class="btn btn-ghost btn-xs" onclick={() => drawing.write({ what: 'title', text: drawing.rung?.geometry.Title ?? '' })}>Title</button>
      <button class="btn btn-ghost btn-xs" onclick={() => drawing.write({ what: 'comment', text: drawing.rung?.comment ?? '' })}>Comment</button>
    </span>
  </div>
  <NameList {drawing} {points} {give} carry={(e, name) => carry(e, name, () => give(name))} />
  {#if carried}<div class="pointer-events-none fixed z-50 rounded-field bg-primary px-2 py-1 text-sm text-primary-content" style:left="{carriedAt.x + 12}px" style:top="{carriedAt.y + 8}px">{carried.words}</div>{/if}
</section>
