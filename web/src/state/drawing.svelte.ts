import type { Written } from './written.svelte'
import { language } from '../core/calls'
import type {
  Box,
  Core,
  Drawn,
  Geometry,
  Item,
  Listed,
  Place,
  PlacedNetwork,
  Rung,
  Spot,
  Step,
  Unit,
} from '../core/core'

/** What can be put into a rung. */
export type Tool = 'contact' | 'coil' | 'block' | 'branch' | 'rung'

/** What is being written at the cursor: an element's name, a block with its pins, a rung's title or comment. */
export type Writing =
  | { what: 'title' | 'comment'; text: string }
  | {
      what: 'name'
      text: string
      /** It has been typed already, if not to its end. */
      begun?: boolean
      /** Nothing stands there yet: a contact of that name is put in. */
      fresh?: boolean
    }
  | {
      what: 'block'
      block: Box | null
      instance: string
      values: Record<string, string>
      en: boolean
      placed: boolean
    }

const contactKinds = ['', '/', 'P', 'N']
const coilKinds = ['', '/', 'S', 'R', 'P', 'N']
const opposite: Record<string, string> = { '': '/', '/': '', P: 'N', N: 'P', S: 'R', R: 'S' }
const words: Record<string, string> = {
  contact: 'open contact',
  'contact/': 'closed contact',
  contactP: 'rising edge contact',
  contactN: 'falling edge contact',
  coil: 'coil',
  'coil/': 'inverted coil',
  coilS: 'set coil',
  coilR: 'reset coil',
  coilP: 'rising edge coil',
  coilN: 'falling edge coil',
}

/** How an element is written in the ladder notation. */
const notation = (kind: string, mark: string, label: string) => {
  const inside = mark + (mark && mark !== '/' && label ? ' ' : '') + label
  return kind === 'coil' ? `(${inside})` : `[${inside}]`
}

/** The elements of a rung that have no name; a geometry never changes, so each is looked through once. */
const looked = new WeakMap<Geometry, { path: number[]; kind: string }[]>()
function blanks(g: Geometry) {
  let list = looked.get(g)
  if (!list) {
    const unnamed = (i: Item) => !i.label && i.mark !== 'P' && i.mark !== 'N'
    list = g.spots
      .filter((s) => s.item >= 0 && unnamed(g.items[s.item]))
      .map((s) => ({
        path: s.path,
        kind: g.items[s.item].kind,
      }))
    looked.set(g, list)
  }
  return list
}

/** A ladder being drawn: the rungs, the cursor in them, and what the keys do. It changes the draft's text, and follows it. */
export class Drawing {
  readonly draft: Written
  readonly core: Core
  units = $state.raw<Unit[]>([])
  rungs = $state.raw<Rung[]>([])
  networks = $state.raw<PlacedNetwork[]>([])
  listed = $state.raw<Listed[]>([])
  blocks = $state.raw<Box[]>([])
  place = $state.raw<Place>({ unit: 0, rung: 0, path: [0] })
  /** Where a choice of several elements began: a path in the series of the cursor. */
  anchor = $state.raw<number | null>(null)
  writing = $state<Writing | null>(null)
  problem = $state('')
  /** A name that is not declared yet, and the types that its place implies. */
  offered = $state.raw<{ name: string; unit: number; types: string[] } | null>(null)
  /** A name is asked for as soon as an element is placed. */
  asks = $state(true)
  columns = $state(8)
  /** The text that is being drawn, and the one whose rungs these are. */
  #drawn: string | null = null
  #taken = $state.raw<string | null>(null)
  #queue: Promise<void> = Promise.resolve()
  #changing = 0
  #clip: { rung: boolean; text: string } | null = null
  #listing?: ReturnType<typeof setTimeout>

  constructor(draft: Written, core: Core) {
    this.draft = draft
    this.core = core
  }

  readonly index = $derived(this.rungs.findIndex((r) => r.unit === this.place.unit && r.number === this.place.rung))

  get rung(): Rung | undefined {
    return this.rungs[this.index]
  }

  /** The number of the spot at which the cursor stands in its rung. */
  get spot() {
    const spots = this.rung?.geometry.spots ?? []
    const found = spots.findIndex((s) => s.path.join() === this.place.path.join())
    return found >= 0 ? found : spots.length ? 0 : -1
  }

  get item(): Item | undefined {
    const s = this.rung?.geometry.spots[this.spot]
    return s && s.item >= 0 ? this.rung!.geometry.items[s.item] : undefined
  }

  /** The stretch of the series that is chosen: where it begins, and how many elements. */
  get run() {
    const path = this.rung?.geometry.spots[this.spot]?.path ?? [0]
    const here = path.at(-1)!
    const from = Math.min(this.anchor ?? here, here)
    const count =
      this.anchor === null
        ? this.item
          ? 1
          : 0
        : Math.abs(this.anchor - here) + (this.item || this.anchor > here ? 1 : 0)
    return { path: [...path.slice(0, -1), from], count }
  }

  /** The items chosen with Shift. */
  get chosen(): number[] {
    if (this.anchor === null || !this.rung) return []
    const { path, count } = this.run
    const depth = path.length
    return this.rung.geometry.spots
      .filter(
        (s) =>
          s.item >= 0 &&
          s.path.length >= depth &&
          s.path.slice(0, depth - 1).join() === path.slice(0, -1).join() &&
          s.path[depth - 1] >= path[depth - 1] &&
          s.path[depth - 1] < path[depth - 1] + count,
      )
      .map((s) => s.item)
  }

  /** What is wrong in a rung, by item; -1 is the rung itself. */
  wrong(r: Rung): Record<number, { severity: string; words: string }> {
    const found: Record<number, { severity: string; words: string }> = {}
    for (const m of this.draft.checked?.marks ?? []) {
      if (m.unit !== r.unit || m.number !== r.number) continue
      const n = r.geometry.items.findIndex((i) => m.start >= i.start && m.start < i.end)
      if (!found[n] || m.severity === 'error') found[n] = m
    }
    return found
  }

  /** Elements that have no name yet. */
  readonly unnamed = $derived(this.rungs.flatMap((r, rung) => blanks(r.geometry).map((b) => ({ rung, ...b }))))

  /** The core has drawn the program; until then nothing is known of its rungs. */
  get ready() {
    return this.#taken !== null
  }

  /** What stands at the cursor, in words. */
  get said(): string {
    const r = this.rung
    if (!r) return this.ready ? 'There is no rung yet.' : 'Loading…'
    const i = this.item
    const where = `Rung ${this.index + 1} of ${this.rungs.length}${r.geometry.title ? ', ' + r.geometry.title : ''}: `
    const bad = i && this.wrong(r)[r.geometry.items.indexOf(i)]
    if (this.chosen.length > 1) return where + `${this.chosen.length} elements chosen`
    if (!i) return where + (r.geometry.items.length ? 'wire' : 'empty')
    return (
      where +
      (i.kind === 'box' ? `block ${i.label} ${i.type}` : `${words[i.kind + i.mark]} ${i.label || 'without a name'}`) +
      (bad ? '. ' + bad.words : '')
    )
  }

  /** Draws a text that came from elsewhere. */
  async follow(text: string) {
    if (text === this.#drawn) return
    this.#drawn = text
    try {
      const drawn = await this.core.draw({ file: this.draft.file, text }, this.columns)
      if (text === this.#drawn) this.#take(text, drawn)
    } catch (error) {
      this.problem = (error as Error).message
    }
  }

  async fold(columns: number) {
    if (columns === this.columns) return
    this.columns = columns
    this.#drawn = null
    await this.follow(this.draft.text)
  }

  #take(text: string, drawn: Drawn) {
    this.#taken = text
    this.units = drawn.units
    this.rungs = drawn.rungs
    this.networks = drawn.networks
    if (this.index < 0 && this.rungs.length)
      this.place = {
        ...this.#placeOf(this.rungs[Math.min(Math.max(this.place.rung, 0), this.rungs.length - 1)]),
        path: this.place.path,
      }
    clearTimeout(this.#listing)
    this.#listing = setTimeout(() => void this.#list(), this.blocks.length ? 120 : 0)
  }

  async #list() {
    const p = { file: this.draft.file, text: this.draft.text }
    this.listed = await this.core.variables(p).catch(() => [])
    if (!this.blocks.length || this.units.some((u) => u.kind === 'FUNCTION_BLOCK'))
      this.blocks = await this.core.blocks(p).catch(() => [])
  }

  #placeOf = (r: Rung): Place => ({ unit: r.unit, rung: r.number, path: [0] })

  /** Sees to it that the rungs are the text's: it may have been written elsewhere, or taken back, a moment ago. */
  async #catchUp() {
    if (this.#taken === this.draft.text) return
    this.#drawn = null
    await this.follow(this.draft.text)
  }

  /** Makes changes, after those that are under way. make sees the drawing as it then is. */
  change(make: () => Step[] | Promise<Step[]>, then?: (at: Place) => unknown): Promise<void> {
    this.#changing++
    this.#queue = this.#queue.then(async () => {
      try {
        this.problem = ''
        await this.#catchUp()
        const steps = await make()
        if (!steps.length) return
        const before = this.draft.text
        const { text, at, drawn } = await this.core.amend({ file: this.draft.file, text: before }, this.columns, steps)
        if (this.draft.text !== before) return // written meanwhile in the text beside
        this.#drawn = text
        this.draft.write(text)
        this.anchor = null
        if (at.path.length) this.place = at
        this.#take(text, drawn)
        then?.(at)
      } catch (error) {
        this.problem = sentence((error as Error).message)
      } finally {
        this.#changing--
      }
    })
    return this.#queue
  }

  /** What has been typed for a name whose field is about to open; null while none is. */
  #ahead: { text: string; next?: 'right' | 'unnamed' } | null = null

  /** Opens the field of a name once the changes under way are made; what is typed meanwhile is for it. */
  open(find: () => unknown) {
    if (!this.#changing) return void find()
    this.#ahead = { text: '' }
    this.after(() => {
      find()
      const { text, next } = this.#ahead!
      this.#ahead = null
      if (this.writing?.what !== 'name' || !text) return
      if (next) void this.name(text, next)
      else this.writing = { what: 'name', text, begun: true }
    })
  }

  /** Takes a key that is for a field about to open; false where none is. */
  typedAhead(key: string): boolean {
    if (!this.#ahead || this.#ahead.next) return false
    if (key === 'Enter') this.#ahead.next = 'right'
    else if (key === 'Tab') this.#ahead.next = 'unnamed'
    else if (key === 'Backspace') this.#ahead.text = this.#ahead.text.slice(0, -1)
    else if (key.length === 1) this.#ahead.text += key
    else return false
    return true
  }

  /** Does something once the changes under way are made: a key that moves means the drawing as it then is. */
  after(work: () => unknown) {
    if (!this.#changing) return void work()
    this.#queue = this.#queue.then(() => void work())
  }

  #here = (path = this.rung?.geometry.spots[this.spot]?.path ?? [0]): Place => ({
    unit: this.place.unit,
    rung: this.place.rung,
    path,
  })

  // Moving.

  go(rung: number, path: number[] = [0]) {
    const r = this.rungs[rung]
    if (!r) return
    this.anchor = null
    this.place = { unit: r.unit, rung: r.number, path }
  }

  stand(rung: number, spot: number, extend = false) {
    const s = this.rungs[rung]?.geometry.spots[spot]
    if (!s) return
    if (extend && rung === this.index && this.#sameSeries(s.path)) this.anchor ??= this.place.path.at(-1)!
    else this.anchor = null
    this.place = { ...this.#placeOf(this.rungs[rung]), path: s.path }
  }

  #sameSeries = (path: number[]) => path.slice(0, -1).join() === this.place.path.slice(0, -1).join()

  move(way: 0 | 1 | 2 | 3, extend = false) {
    const r = this.rung
    if (!r) return
    const here = r.geometry.spots[this.spot]
    if (extend && way < 2) return this.#extend(way === 0 ? -1 : 1)
    const next = here.go[way]
    if (next >= 0) return this.stand(this.index, next)
    if (way < 2) return
    const other = this.index + (way === 2 ? -1 : 1)
    const to = this.rungs[other]
    if (!to) return
    const rows = to.geometry.spots.map((s) => s.row)
    const row = way === 2 ? Math.max(...rows) : Math.min(...rows)
    const near = (s: Spot) => (s.row === row ? 0 : 1000) + Math.abs(s.from + s.to - here.from - here.to)
    const best = to.geometry.spots.reduce((a, b) => (near(b) < near(a) ? b : a))
    this.stand(other, to.geometry.spots.indexOf(best))
  }

  /** Chooses one element more or less of the series; a parallel is one element. */
  #extend(by: number) {
    const path = this.place.path
    const to = path.at(-1)! + by
    const series = path.slice(0, -1).join()
    const spots = this.rung!.geometry.spots
    const inSeries = (s: Spot) => s.path.slice(0, path.length - 1).join() === series && s.path[path.length - 1] === to
    if (to < 0 || !spots.some(inSeries)) return
    this.anchor ??= path.at(-1)!
    this.place = {
      ...this.place,
      path: spots.some((s) => inSeries(s) && s.path.length === path.length)
        ? [...path.slice(0, -1), to]
        : spots.find(inSeries)!.path.slice(0, path.length),
    }
  }

  #right() {
    const next = this.rung?.geometry.spots[this.spot]?.go[1] ?? -1
    if (next >= 0) this.stand(this.index, next)
  }

  /** To the next element without a name. */
  nextUnnamed() {
    const list = this.unnamed
    const after =
      list.find((u) => u.rung > this.index || (u.rung === this.index && u.path.join() > this.place.path.join())) ??
      list[0]
    if (after) this.go(after.rung, after.path)
    return !!after
  }

  // Putting in, changing, taking out.

  put(tool: Tool) {
    if (tool === 'rung') return this.addRung()
    if (tool === 'branch') return this.branch()
    if (tool === 'block')
      return this.write({ what: 'block', block: null, instance: '', values: {}, en: false, placed: false })
    if (this.asks) this.write({ what: 'name', text: '' }) // at once: the next key is a letter of the name
    return this.change(
      () => {
        const { made, at } = this.#site()
        return [...made, { do: 'put', at, count: 0, text: notation(tool, '', '') }]
      },
      () => this.asks || this.#right(),
    )
  }

  /** Where an element is put in: at the cursor, or into a first rung that is made for it. */
  #site(): { made: Step[]; at: Place } {
    if (this.rungs.length) return { made: [], at: this.#here(this.run.path) }
    const at = this.#newRung(0)
    return { made: [{ do: 'insert rung', at }], at: { ...at, path: [0] } }
  }

  #newRung(after: 0 | 1): Place {
    const unit = this.rung?.unit ?? this.units.findIndex((u) => u.ladder)
    if (unit < 0) throw new Error('This text has no ladder yet. Write LADDER … END_LADDER in it, or start over.')
    return { unit, rung: this.rung ? this.place.rung + after : 0, path: [] }
  }

  /** Makes a branch around what is chosen, or below it; in its new path waits the name of a contact. */
  branch(below = false) {
    return this.#branch(() => [
      below
        ? { do: 'branch below', at: this.#here() }
        : { do: 'branch', at: this.#here(this.run.path), count: this.run.count },
    ])
  }

  /** Makes a branch from one point of a series to another. */
  branchBetween(rung: number, series: number[], from: number, to: number) {
    const r = this.rungs[rung]
    if (!r || from === to) return
    const at = { ...this.#placeOf(r), path: [...series, Math.min(from, to)] }
    return this.#branch(() => [{ do: 'branch', at, count: Math.abs(to - from) }])
  }

  #branch(make: () => Step[]) {
    if (this.asks) this.write({ what: 'name', text: '', fresh: true }) // at once: the next key is a letter of the name
    return this.change(make).then(() => {
      if (this.problem && this.writing?.what === 'name' && this.writing.fresh) this.writing = null
    })
  }

  /** A letter typed here begins a name: on an element that has none, or in a path with nothing in it. */
  get namable(): boolean {
    const s = this.rung?.geometry.spots[this.spot]
    // While changes are under way nobody knows where the letter will fall: it is the tool's, as it was when they were begun.
    if (!s || this.#changing || this.chosen.length > 1) return false
    const i = this.item
    if (i) return i.kind !== 'box' && !i.label && i.mark !== 'P' && i.mark !== 'N'
    return s.path.length > 1 && s.path.at(-1) === 0
  }

  /** Begins a name with the letter typed. */
  typeName(letter: string) {
    this.write({ what: 'name', text: letter, begun: true, fresh: !this.item })
  }

  /** Puts an element of a rung before another, or at the end of a wire; a copy leaves it where it is, too. */
  carry(from: { rung: number; path: number[] }, to: { rung: number; spot: number }, copies: boolean) {
    const [source, target] = [this.rungs[from.rung], this.rungs[to.rung]]
    const path = target?.geometry.spots[to.spot]?.path
    if (!source || !path) return
    const [series, index] = [from.path.slice(0, -1), from.path.at(-1)!]
    const same = from.rung === to.rung
    if (same && path.join() === from.path.join()) return
    return this.change(
      async () => {
        const at = { ...this.#placeOf(source), path: from.path }
        const { text } = await this.core.clip({ file: this.draft.file, text: this.draft.text }, at, 1)
        const put: Step = { do: 'put', at: { ...this.#placeOf(target), path }, count: 0, text }
        if (copies) return [put]
        const moved = same ? shifted(from.path, path.slice(0, -1), path.at(-1)!, 1) : from.path
        return [put, { do: 'remove', at: { ...at, path: moved }, count: 1 }]
      },
      () => {
        const taken = copies || !same ? path : shifted(path, series, index, -1)
        this.place = { ...this.#placeOf(target), path: taken }
      },
    )
  }

  addRung(above = false) {
    return this.change(() => [{ do: 'insert rung', at: this.#newRung(above ? 0 : 1) }])
  }

  /** Changes the element at the cursor to what the function makes of it. */
  #alter(make: (i: Item) => string) {
    return this.change(() =>
      this.item && this.item.kind !== 'box' ? [{ do: 'put', at: this.#here(), count: 1, text: make(this.item) }] : [],
    )
  }

  invert = () => this.#alter((i) => notation(i.kind, opposite[i.mark], i.label))

  kind(mark?: string) {
    return this.#alter((i) => {
      const kinds = i.kind === 'coil' ? coilKinds : contactKinds
      return notation(i.kind, mark ?? kinds[(kinds.indexOf(i.mark) + 1) % kinds.length], i.label)
    })
  }

  kinds(): { mark: string; words: string }[] {
    const kind = this.item?.kind
    return kind === 'contact' || kind === 'coil'
      ? (kind === 'coil' ? coilKinds : contactKinds).map((mark) => ({ mark, words: words[kind + mark] }))
      : []
  }

  remove(back = false) {
    return this.change(() => {
      const r = this.rung
      if (!r) return []
      if (!r.geometry.items.length && r.geometry.spots.length === 1) return [{ do: 'remove rung', at: this.#here() }]
      const { path, count } = this.run
      if (count > 0) return [{ do: 'remove', at: this.#here(path), count }]
      const here = this.#here()
      if (here.path.at(-1) === 0 && here.path.length > 2) return [{ do: 'remove', at: here, count: 1 }]
      if (back && here.path.at(-1)! > 0)
        return [{ do: 'remove', at: this.#here([...here.path.slice(0, -1), here.path.at(-1)! - 1]), count: 1 }]
      return []
    })
  }

  removeRung = () => this.change(() => (this.rung ? [{ do: 'remove rung', at: this.#here() }] : []))
  moveRung = (by: number) =>
    this.change(() => (this.rung ? [{ do: 'move rung', at: this.#here(), to: this.place.rung + by }] : []))

  // Copying.

  async copy() {
    if (!this.rung) return
    const { path, count } = this.run
    const p = { file: this.draft.file, text: this.draft.text }
    this.#clip = { rung: count === 0, text: (await this.core.clip(p, this.#here(count ? path : []), count)).text }
    void navigator.clipboard?.writeText(this.#clip.text).catch(() => {})
  }

  async cut() {
    await this.copy()
    return this.#clip?.rung ? this.removeRung() : this.remove()
  }

  paste() {
    const clip = this.#clip
    if (!clip) return
    return this.change(() =>
      clip.rung
        ? [{ do: 'insert rung', at: { ...this.#here(), rung: this.place.rung + 1 }, text: clip.text }]
        : [{ do: 'put', at: this.#here(this.run.path), count: 0, text: clip.text }],
    )
  }

  duplicate() {
    return this.change(async () => {
      if (!this.rung) return []
      const { text } = await this.core.clip({ file: this.draft.file, text: this.draft.text }, this.#here([]), 0)
      return [{ do: 'insert rung', at: { ...this.#here(), rung: this.place.rung + 1 }, text }]
    })
  }

  // Names.

  write(w: Writing) {
    this.offered = null
    this.writing = w
  }

  /** Begins to write at the cursor: the name of an element, the pins of a block. */
  edit() {
    const i = this.item
    if (!i) return
    if (i.kind !== 'box') return this.write({ what: 'name', text: i.label })
    const block = this.blocks.find((b) => b.name.toLowerCase() === (i.type || i.label).toLowerCase()) ?? null
    const values: Record<string, string> = {}
    const en = i.inputs?.[0] === 'EN' && !!block && !block.function
    const inputs = (block?.pins ?? []).filter((p) => !p.output)
    i.inputs.slice(1).forEach((text, n) => {
      if (block?.function) values[inputs[Math.min(n, inputs.length - 1)].name] = text
      else values[text.split(' ')[0]] = text.split(' ').slice(1).join(' ')
    })
    i.outputs.slice(1).forEach((text) => {
      const name = block?.function ? 'value' : text.split(' ').at(-1)!
      values[name] = block?.function ? text : text.split(' ').slice(0, -1).join(' ')
    })
    this.write({ what: 'block', block, instance: i.label, values, en, placed: true })
  }

  /** Gives the element at the cursor a name, and goes on to the right, or to the next without a name. */
  name(text: string, next: 'right' | 'unnamed' | 'stay' = 'right') {
    const fresh = this.writing?.what === 'name' && !!this.writing.fresh
    if (next !== 'unnamed') this.writing = null // else the field stays, for the next name
    text = text.trim()
    return this.change(
      () => {
        const i = this.item
        if (fresh) return [{ do: 'put', at: this.#here(), count: 0, text: notation('contact', '', text) }]
        return i && i.kind !== 'box'
          ? [{ do: 'put', at: this.#here(), count: 1, text: notation(i.kind, i.mark, text) }]
          : []
      },
      () => {
        void this.offer(text)
        if (next === 'right') this.#right()
        if (next === 'unnamed' && !this.nextUnnamed()) this.writing = null
      },
    ).then(() => {
      if (this.problem) this.write({ what: 'name', text, ...(fresh && { fresh }) })
    })
  }

  known(name: string, unit = this.place.unit) {
    return this.listed.some((v) => v.name.toLowerCase() === name.toLowerCase() && (v.unit < 0 || v.unit === unit))
  }

  /** Offers to declare a name that was written and is not known. */
  async offer(text: string) {
    const name = /^[A-Za-z]\w*/.exec(text)?.[0]
    if (!name) return
    clearTimeout(this.#listing)
    await this.#list()
    if (this.known(name) || /^(TRUE|FALSE|NOT|FIRST_SCAN)$/i.test(name) || text.startsWith(name + '.')) return
    const types = await this.core.implied({ file: this.draft.file, text: this.draft.text }, name)
    this.offered = { name, unit: this.place.unit, types }
  }

  declare(type: string) {
    const o = this.offered
    if (!o) return
    this.offered = null
    return this.change(() => [{ do: 'declare', at: { unit: o.unit }, variable: { name: o.name, type } }])
  }

  /** A name for a new instance that nothing has yet: timer_1. */
  freeName(b: Box) {
    for (let n = 1; ; n++) if (!this.known(`${b.stem}_${n}`)) return `${b.stem}_${n}`
  }

  /** Why a new instance cannot have that name; "" if it can. */
  instanceProblem(block: Box, name: string): string {
    name = name.trim()
    const lower = name.toLowerCase()
    if (!name) return 'Give the block a name: that is its memory.'
    if (!/^[A-Za-z_]\w*$/.test(name)) return 'A name has letters, digits and _ only, and does not begin with a digit.'
    if (reserved.has(lower) || this.blocks.some((b) => b.name.toLowerCase() === lower))
      return `${name} is a word of the language; take another name.`
    const has = this.listed.find((v) => v.name.toLowerCase() === lower && (v.unit < 0 || v.unit === this.place.unit))
    if (has && has.type.toLowerCase() !== block.name.toLowerCase())
      return `${name} is declared already, as ${has.type || 'a point'}; take another name.`
    return ''
  }

  choose(block: Box) {
    const values: Record<string, string> = {}
    for (const p of block.pins) if (p.value) values[p.name] = p.value
    this.write({
      what: 'block',
      block,
      instance: block.function ? block.name : this.freeName(block),
      values,
      en: block.power === 'EN',
      placed: false,
    })
  }

  /** Puts the block that was written into the rung, and declares its instance where it is new. */
  putBlock() {
    const w = this.writing
    if (w?.what !== 'block' || !w.block) return
    const { block: b, values } = w
    if (!b.function && this.instanceProblem(b, w.instance)) return
    const pins = b.pins.filter((p) => p.name !== b.power || w.en)
    const given = pins.filter((p) => values[p.name]?.trim())
    const inputs = given
      .filter((p) => !p.output)
      .map((p) => (b.function ? values[p.name].trim() : `${p.name} := ${values[p.name].trim()}`))
    const outputs = given.filter((p) => p.output)
    const text = b.function
      ? `${b.name}(${inputs.join(', ')})${outputs.length ? ' => ' + values[outputs[0].name].trim() : ''}`
      : `${w.instance}(${[...(w.en ? ['EN'] : []), ...inputs, ...outputs.map((p) => `${p.name} => ${values[p.name].trim()}`)].join(', ')})`
    const steps = (): Step[] => {
      const declare: Step[] =
        b.function || this.known(w.instance)
          ? []
          : [{ do: 'declare', at: { unit: this.place.unit }, variable: { name: w.instance, type: b.name } }]
      if (w.placed) return [...declare, { do: 'put', at: this.#here(), count: 1, text }]
      const { made, at } = this.#site()
      return [...declare, ...made, { do: 'put', at, count: 0, text }]
    }
    this.writing = null
    return this.change(steps, () => this.#right()).then(() => {
      if (this.problem) this.writing = w
    })
  }

  title(text: string) {
    this.writing = null
    return this.change(() => [{ do: 'title', at: this.#here(), text }])
  }

  comment(text: string) {
    this.writing = null
    return this.change(() => [{ do: 'comment', at: this.#here(), text }])
  }

  // Taking back.

  undo = () => this.#step(() => this.draft.undo())
  redo = () => this.#step(() => this.draft.redo())

  /** Takes a change back or makes it again, after what is under way; what comes next finds it drawn. */
  #step(take: () => number) {
    this.#changing++
    this.#queue = this.#queue.then(async () => {
      try {
        const at = take()
        this.writing = null
        this.offered = null
        if (at < 0) return
        await this.#catchUp()
        const n = this.rungs.findIndex((r) => at >= r.start && at <= r.end + 1)
        if (n >= 0) this.go(n, n === this.index ? this.place.path : [0])
      } finally {
        this.#changing--
      }
    })
    return this.#queue
  }

  /** The rungs in which a text stands: in the title, the comment or a name. */
  find(text: string): number[] {
    const wanted = text.toLowerCase()
    return !wanted
      ? []
      : this.rungs.flatMap((r, n) =>
          [
            r.geometry.title,
            r.comment ?? '',
            ...r.geometry.items.flatMap((i) => [i.label, i.type, ...i.inputs, ...i.outputs]),
          ].some((s) => s.toLowerCase().includes(wanted))
            ? [n]
            : [],
        )
  }
}

/** Where a path leads once an element is put into a series, or taken out of it, at a number. */
function shifted(path: number[], series: number[], index: number, by: 1 | -1): number[] {
  const depth = series.length
  const within = path.length > depth && path.slice(0, depth).join() === series.join()
  if (!within || path[depth] < index + (by < 0 ? 1 : 0)) return path
  return path.with(depth, path[depth] + by)
}

const reserved = new Set(`${language.keywords} ${language.types} ${language.blocks}`.toLowerCase().split(' '))

export const sentence = (text: string) => text[0].toUpperCase() + text.slice(1) + (/[.!?]$/.test(text) ? '' : '.')
