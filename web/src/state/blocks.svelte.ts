import type { Box, PlacedNetwork, Step } from '../core/core'
import { sentence, type Drawing } from './drawing.svelte'
import { spotsOf, type NetworkSpot } from './network'

/** What is being written: a value at a pin, a function or block, where a value goes, a line, or what is said of a network. */
export type Asked = {
  what: 'value' | 'block' | 'target' | 'line' | 'eno' | 'title' | 'comment'
  text: string
  /** It has been typed already, if not to its end. */
  begun?: boolean
}

/** What a wire begins with: a place, which output of an instance, and how it is called. */
export interface Source {
  at: { unit: number; rung: number; path: number[] }
  output: string
  words: string
}

const extensible = /^(AND|OR|XOR|ADD|MUL|MIN|MAX|MUX)$/i

/**
 * A block diagram being drawn: the pin at the cursor, and what the keys do. The text and its networks are the drawing's, whose place
 * is the cursor: the number of the network, and the path of a pin in it.
 */
export class Blocks {
  readonly drawing: Drawing
  asked = $state<Asked | null>(null)
  /** A wire being drawn. */
  wire = $state.raw<Source | null>(null)
  /** What would be wrong where it is led to, or a name carried to: '' for nothing. */
  warning = $state('')

  constructor(drawing: Drawing) {
    this.drawing = drawing
  }

  readonly index = $derived.by(() => {
    const { unit, rung } = this.drawing.place
    return this.drawing.networks.findIndex((n) => n.unit === unit && n.number === rung)
  })

  get network(): PlacedNetwork | undefined {
    return this.drawing.networks[this.index]
  }

  readonly spots = $derived(this.network ? spotsOf(this.network.geometry) : [])

  /** What stands at the cursor: a pin, a box, a word; nothing in an empty network. */
  get spot(): NetworkSpot | undefined {
    const path = this.drawing.place.path.join()
    return this.spots.find((s) => s.path.join() === path) ?? this.spots[0]
  }

  get #at() {
    return { ...this.drawing.place, path: this.spot?.path ?? [] }
  }

  /** The name at the cursor, of a box the instance's; '' where none stands. */
  get named(): string {
    const path = this.spot?.path.join()
    const box = this.network?.geometry.boxes.find((b) => b.path.join() === path)
    const text = box?.instance || (this.spot?.kind === 'value' || this.spot?.kind === 'target' ? this.spot.text : '')
    return /^\(?[SR]? ?([A-Za-z_%][\w.]*)\)?$/.exec(text)?.[1] ?? ''
  }

  /** In words. */
  get said(): string {
    const n = this.network
    if (!n) return this.drawing.ready ? 'There is no network yet.' : 'Loading…'
    const where = `Network ${this.index + 1} of ${this.drawing.networks.length}${n.geometry.title ? ', ' + n.geometry.title : ''}: `
    const s = this.spot
    if (!s) return where + 'empty'
    if (this.wire) {
      const to = s.text || 'a pin of ' + s.of
      return this.wire.at.path.join() === s.path.join()
        ? `Wire from ${this.wire.words}: go to a pin; Escape leaves it.`
        : `Wire from ${this.wire.words} to ${to}. ${this.warning || 'w draws it.'}`
    }
    if (s.kind === 'open') return `${where}open pin of ${s.of}`
    return where + `${s.kind} ${s.text || 'of ' + s.of}`
  }

  select(network: number, path: number[]) {
    const n = this.drawing.networks[network]
    if (n) this.drawing.place = { unit: n.unit, rung: n.number, path }
  }

  /** Goes to the nearest spot in a direction; beyond the last one to the next network. */
  move(dx: number, dy: number) {
    const from = this.spot
    const middle = (s: NetworkSpot) => [s.x + s.width / 2, s.y + s.height / 2]
    let best: NetworkSpot | undefined
    let least = Infinity
    for (const s of from ? this.spots : []) {
      const [x, y] = middle(s)
      const [fromX, fromY] = middle(from!)
      const along = (x - fromX) * dx + (y - fromY) * dy
      const aside = Math.abs((x - fromX) * dy) + Math.abs((y - fromY) * dx)
      if (along > 4 && along + 3 * aside < least) [best, least] = [s, along + 3 * aside]
    }
    if (best) this.select(this.index, best.path)
    else if (dy) {
      const next = this.drawing.networks[this.index + dy]
      const list = next ? spotsOf(next.geometry) : []
      if (next) this.select(this.index + dy, (dy > 0 ? list[0] : list.at(-1))?.path ?? [])
    }
  }

  ask(what: Asked['what'], text = '', begun = false) {
    this.drawing.problem = ''
    this.asked = { what, text, begun }
  }

  /** A letter typed here begins a name: at a pin that is open. */
  get namable() {
    return this.spot?.kind === 'open'
  }

  /** Asks for the value at the cursor, beginning with what stands there. */
  edit() {
    const s = this.spot
    if (s) this.ask('value', s.end > s.start ? this.#textOf(s) : '')
  }

  #textOf(s: NetworkSpot) {
    const from = this.network!.start
    return this.drawing.draft.text.slice(from + s.start, from + s.end)
  }

  #change(make: () => Step[], opens = false) {
    return this.drawing.change(make, () => {
      if (opens && this.drawing.asks && this.spot?.kind === 'open') this.ask('value')
    })
  }

  /** Takes what was written. */
  async take(text: string) {
    const asked = this.asked
    this.asked = null
    if (!asked) return
    const at = this.#at
    text = text.trim()
    switch (asked.what) {
      case 'value':
        await this.#change(() => [{ do: 'connect', at, text }])
        return this.drawing.offer(text)
      case 'target':
        await this.#change(() => [{ do: 'target', at, text }])
        return this.drawing.offer(text)
      case 'line':
        await this.#change(() => [{ do: 'node', at, text }])
        return this.drawing.offer(text.slice(text.lastIndexOf('=>') + 2).trim())
      case 'eno':
        await this.#change(() => [{ do: 'enable out', at, text }])
        return this.drawing.offer(text)
      case 'block':
        return this.#block(text)
      default:
        return this.#change(() => [{ do: asked.what as 'title' | 'comment', at, text }])
    }
  }

  /** Puts a function before the pin at the cursor; a block stands in a line of its own, its first input taken from there. */
  #block(name: string) {
    const at = this.#at
    const block = this.drawing.blocks.find((b) => b.name.toLowerCase() === name.toLowerCase())
    if (block && !block.function) return this.#instance(block)
    const inputs = block?.pins.filter((p) => !p.output).length ?? (/^NOT$/i.test(name) ? 1 : 2)
    return this.#change(() => [{ do: 'insert', at, text: name.toUpperCase(), count: Math.max(inputs, 1) }], true)
  }

  #instance(block: Box) {
    const at = this.#at
    const name = this.drawing.freeName(block)
    const ins = block.pins.filter((p) => !p.output).map((p) => `${p.name} := ${p.value ?? ''}`)
    const variable = { name, type: block.name }
    const node: Step = { do: 'node', at, text: `${name}(${ins.join(', ')})` }
    return this.#change(() => [node, { do: 'declare', at: { unit: at.unit }, variable }])
  }

  /** The outputs from which a wire can begin at a place: of an instance by name, else one. */
  outputsAt(path: number[]): string[] {
    const box = this.network?.geometry.boxes.find((b) => b.path.join() === path.join())
    return box?.instance ? box.outputs.map((p) => p.name) : ['']
  }

  /** A wire begins at a place; of an instance at the first output, or at the one that is named. */
  from(path: number[], output = this.outputsAt(path)[0]) {
    const box = this.network?.geometry.boxes.find((b) => b.path.join() === path.join())
    const spot = this.spots.find((s) => s.path.join() === path.join())
    const words = box?.instance ? box.instance + '.' + output : (box?.heading ?? (spot?.text || 'the wire there'))
    const { unit, rung } = this.drawing.place
    this.drawing.problem = this.warning = ''
    this.wire = { at: { unit, rung, path }, output, words }
  }

  /** The key for wires: begins one at the cursor, takes the next output there, or leads it to where the cursor has come. */
  wires() {
    const at = this.#at
    if (!this.wire) return this.spot && this.spot.kind !== 'open' ? this.from(at.path) : undefined
    if (this.wire.at.path.join() !== at.path.join() || this.wire.at.rung !== at.rung) return this.lead(at.path)
    const outputs = this.outputsAt(at.path)
    const next = outputs[outputs.indexOf(this.wire.output) + 1]
    if (next === undefined) this.wire = null
    else this.from(at.path, next)
  }

  #wired = (path: number[]): Step[] => [
    { do: 'wire', from: this.wire!.at, text: this.wire!.output, at: { ...this.drawing.place, path } },
  ]

  /** Leads the wire to a pin, if that takes what it carries. */
  async lead(path: number[]) {
    const steps = this.#wired(path)
    this.warning = await this.wouldSay(steps)
    this.wire = null
    if (this.warning) {
      this.drawing.problem = this.warning
      return
    }
    return this.#change(() => steps)
  }

  /** What would be wrong with the wire at a pin. */
  async tryWire(path: number[]) {
    if (this.wire) this.warning = await this.wouldSay(this.#wired(path))
  }

  /** What would be wrong with a name at a pin. */
  async tryName(path: number[], name: string) {
    this.warning = await this.wouldSay([{ do: 'connect', at: { ...this.drawing.place, path }, text: name }])
  }

  /** The first error that changes would bring about; '' where they bring none. */
  async wouldSay(steps: Step[]): Promise<string> {
    const { draft, core } = this.drawing
    const errors = async (text: string) =>
      (await core.check({ file: draft.file, text })).diagnostics
        .filter((d) => d.severity === 'error')
        .map((d) => d.message)
    try {
      const { text } = await core.amend({ file: draft.file, text: draft.text }, this.drawing.columns, steps)
      const before = await errors(draft.text)
      return (await errors(text)).find((m) => !before.includes(m)) ?? ''
    } catch (error) {
      return sentence((error as Error).message)
    }
  }

  /** Gives the function or block at the cursor an EN, or takes it away. */
  enable() {
    const at = this.#at
    return this.#change(() => [{ do: 'enable', at }], true)
  }

  #clip: { text: string; network: boolean } | null = null

  /** Copies what stands at the cursor, of a target or an empty network the network. */
  copy() {
    const [n, s] = [this.network, this.spot]
    if (!n) return
    const network = !s || s.kind === 'target' || s.kind === 'open'
    const text = this.drawing.draft.text
    this.#clip = { network, text: network ? text.slice(n.start, n.end) : this.#textOf(s) }
    void navigator.clipboard?.writeText(this.#clip.text).catch(() => {})
  }

  async cut() {
    this.copy()
    return this.#clip?.network ? this.removeNetwork() : this.remove()
  }

  paste() {
    const clip = this.#clip
    const at = this.#at
    if (!clip) return
    return this.#change(() =>
      clip.network
        ? [{ do: 'insert rung', at: { ...at, rung: at.rung + 1, path: [] }, text: clip.text }]
        : [{ do: 'connect', at, text: clip.text }],
    )
  }

  duplicate() {
    const n = this.network
    const at = { ...this.drawing.place, path: [] }
    const text = n ? this.drawing.draft.text.slice(n.start, n.end) : ''
    return this.#change(() => (n ? [{ do: 'insert rung', at: { ...at, rung: at.rung + 1 }, text }] : []))
  }

  invert() {
    const at = this.#at
    return this.#change(() => [{ do: 'invert', at }])
  }

  more() {
    const at = this.#at
    return this.#change(() => [{ do: 'more', at }], true)
  }

  /** Takes away what stands at the cursor; of an empty network the network. */
  remove() {
    const at = this.#at
    return this.#change(() => [at.path.length ? { do: 'take', at } : { do: 'remove rung', at }])
  }

  removeNetwork() {
    const at = this.#at
    return this.#change(() => [{ do: 'remove rung', at: { ...at, path: [] } }])
  }

  add(above = false) {
    const n = this.network
    const unit = n?.unit ?? this.drawing.units.findIndex((u) => u.diagram)
    if (unit < 0) {
      this.drawing.problem = 'This text has no block diagram yet. Write FBD … END_FBD in it, or start over.'
      return
    }
    const at = { unit, rung: n ? n.number + (above ? 0 : 1) : 0, path: [] }
    return this.drawing.change(
      () => [{ do: 'insert rung', at }],
      () => (this.drawing.place = at),
    )
  }

  /** Exchanges the network with the one above or below. */
  shift(by: number) {
    const n = this.network
    const other = this.drawing.networks[this.index + by]
    if (!n || !other || other.unit !== n.unit) return
    const at = { unit: n.unit, rung: n.number, path: [] }
    return this.drawing.change(
      () => [{ do: 'move rung', at, to: n.number + by }],
      () => (this.drawing.place = { ...at, rung: n.number + by }),
    )
  }

  /** Whether the box at the cursor takes more inputs. */
  get extensible() {
    return extensible.test(this.spot?.of ?? '')
  }
}
