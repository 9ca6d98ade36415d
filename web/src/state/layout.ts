// Where everything of a drawn rung stands, in pixels: the same for the drawing, for what is written on it and for the hand that
// moves things in it.
import type { Geometry, Item, Rung, Spot } from '../core/core'

/** The width of a letter. */
export const letter = 7.4
/** A row without a block, and how far its wire lies beneath its top. */
const plain = 52
const headroom = 34
/** What a block's instance above it, and its kind in it, need besides. */
const titled = 20
const pinHeight = 22
const left = 24

export interface Frame {
  x: number
  y: number
  width: number
  height: number
}

/** A point of a wire at which a branch can begin or end: before so many elements of a series. */
export interface Joint {
  series: number[]
  index: number
  x: number
  y: number
}

export interface Layout {
  /** Where each column begins; the last is where the rung ends. */
  x: number[]
  /** The wire of each row. */
  y: number[]
  right: number
  height: number
}

/** What is shown besides the rung itself. */
export interface Shown {
  face?: (item: Item) => string
  words?: (start: number) => string
}

export const pins = (i: Item) => Math.max(i.inputs.length, i.outputs.length)
const longest = (list: string[]) => Math.max(0, ...list.map((s) => s.length))
/** The height of a block's body: its kind, its pins and its face. */
export const bodyHeight = (i: Item, face: string) => 20 + pins(i) * pinHeight + (face ? 18 : 0)
/** Where a block's body begins above its wire, and where its n-th pin lies beneath it. */
export const bodyAbove = 32
export const pinBelow = (n: number) => n * pinHeight

/** The instance of a block of that kind: a function has none. */
export const instanceOf = (i: Item) => (i.type ? i.label : '')
export const kindOf = (i: Item) => i.type || i.label

function columnWidth(i: Item, start: number, shown: Shown) {
  if (i.kind !== 'box') return Math.max(i.label.length, 4, (shown.words?.(start) ?? '').length * 0.85) + 3
  const across = longest(i.inputs) + longest(i.outputs) + 4
  return Math.max(across, i.label.length, i.type.length + 2, (shown.face?.(i) ?? '').length) + 5
}

function widths(r: Rung, shown: Shown) {
  const list = Array<number>(r.geometry.columns).fill(6)
  for (const i of r.geometry.items) list[i.column] = Math.max(list[i.column], columnWidth(i, r.start + i.start, shown))
  return list.map((w) => w * letter)
}

const narrow = new WeakMap<Geometry, number>()
/** How wide a rung is that nothing stretches. */
export function naturalWidth(r: Rung): number {
  let known = narrow.get(r.geometry)
  if (known === undefined) {
    known = widths(r, {}).reduce((a, b) => a + b, 0) + 50
    narrow.set(r.geometry, known)
  }
  return known
}

/** The wires of a geometry's rows; a row with a block has room for its name, and its last one for its pins. */
function rows(g: Geometry, face: (i: Item) => string): { y: number[]; height: number } {
  const above = Array<number>(g.rows).fill(headroom)
  const high = Array<number>(g.rows).fill(plain)
  for (const i of g.items) if (i.kind === 'box') above[i.row] = headroom + titled
  above.forEach((a, n) => (high[n] += a - headroom))
  for (const i of g.items) {
    if (i.kind !== 'box') continue
    const last = Math.min(i.row + Math.max(i.rows, 1), g.rows) - 1
    const has = high.slice(i.row, last + 1).reduce((a, b) => a + b, 0)
    high[last] += Math.max(0, above[i.row] - bodyAbove + bodyHeight(i, face(i)) + 8 - has)
  }
  const y: number[] = []
  let top = 0
  high.forEach((h, n) => {
    y.push(top + above[n])
    top += h
  })
  return { y, height: top + 6 }
}

const tall = new WeakMap<Geometry, number>()
/** How high a rung is drawn; a face is given room whether there is one or not, so that nothing moves when the bench begins. */
export function heightOf(g: Geometry): number {
  let known = tall.get(g)
  if (known === undefined) {
    known = rows(g, measured).height
    tall.set(g, known)
  }
  return known
}
const measured = (i: Item) => (i.measure ? 'room' : '')

/** Lays a rung out; its free wire reaches as far as room. */
export function layout(r: Rung, room: number, shown: Shown): Layout {
  const g = r.geometry
  const list = widths(r, shown)
  const free = g.spots.find((s) => s.item < 0 && s.path.length === 1 && s.to > s.from)
  const sum = list.reduce((a, b) => a + b, 0) + 50
  if (free) list[free.to - 1] += Math.max(0, room - sum)
  const x = [left]
  for (const w of list) x.push(x[x.length - 1] + w)
  const { y, height } = rows(g, (i) => shown.face?.(i) || measured(i))
  return { x, y, right: x[g.columns] + 12, height }
}

/** The frame of an item, or of a stretch of wire. */
export function frame(l: Layout, g: Geometry, s: Spot, face: (i: Item) => string): Frame {
  const i = s.item >= 0 ? g.items[s.item] : undefined
  const [from, to, y] = [l.x[s.from], l.x[s.to], l.y[s.row]]
  if (i?.kind === 'box') {
    const above = bodyAbove + (instanceOf(i) ? 20 : 4)
    return {
      x: from + 3,
      y: y - above,
      width: to - from - 6,
      height: bodyHeight(i, face(i) || measured(i)) + above - 28,
    }
  }
  if (i) return { x: from + 3, y: y - 32, width: to - from - 6, height: 48 }
  if (s.to > s.from) return { x: from + 2, y: y - 18, width: to - from - 4, height: 36 }
  // Two series may end at one boundary: the outer one's end lies to the right.
  return { x: from - 4 - 7 * Math.floor(s.path.length / 2) + 5, y: y - 18, width: 9, height: 36 }
}

/** Every point between the elements of every series of a rung, a parallel counting as one element. */
export function joints(l: Layout, g: Geometry): Joint[] {
  const spans = new Map<string, { series: number[]; index: number; from: number; to: number; row: number }>()
  for (const s of g.spots) {
    if (s.item < 0) continue
    for (let depth = 0; depth < s.path.length; depth += 2) {
      const series = s.path.slice(0, depth)
      const key = s.path.slice(0, depth + 1).join()
      const known = spans.get(key)
      if (!known) spans.set(key, { series, index: s.path[depth], from: s.from, to: s.to, row: s.row })
      else
        Object.assign(known, {
          from: Math.min(known.from, s.from),
          to: Math.max(known.to, s.to),
          row: Math.min(known.row, s.row),
        })
    }
  }
  const found = new Map<string, Joint>()
  const add = (series: number[], index: number, boundary: number, row: number) => {
    const key = series.join() + '|' + index
    if (!found.has(key)) found.set(key, { series, index, x: l.x[boundary], y: l.y[row] })
  }
  for (const s of spans.values()) {
    add(s.series, s.index, s.from, s.row)
    add(s.series, s.index + 1, s.to, s.row)
  }
  return [...found.values()]
}
