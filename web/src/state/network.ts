// Where everything of a drawn network stands, in pixels: its geometry is in letters and lines.
import type { Network, NetworkLine } from '../core/core'

const letter = 7.6
const step = 24

/** The middle of a letter, and of a line. */
export const across = (x: number) => x * letter + 10
export const along = (y: number) => y * step + 16
/** The radius of a circle that inverts. */
export const circle = 4.5
export const faceHeight = 18

export const size = (g: Network) => ({ width: across(g.width + 2), height: along(g.height) + 2 })

/** A line whose value is no constant: what a function or a block gives, or a variable. */
export const placed = (l: NetworkLine) => !/^[-+\d'%]|^\w+#|^(TRUE|FALSE)$/i.test(l.from.name)

/** What the cursor can stand on: a box, a value beside a pin, a pin with nothing on it or with a wire, a target. */
export interface NetworkSpot {
  kind: 'box' | 'value' | 'open' | 'wire' | 'target'
  path: number[]
  /** What is written there, and of a pin the box. */
  text: string
  of: string
  start: number
  end: number
  x: number
  y: number
  width: number
  height: number
}

const looked = new WeakMap<Network, NetworkSpot[]>()
/** The spots of a network, from left to right; each place has one. */
export function spotsOf(g: Network): NetworkSpot[] {
  const known = looked.get(g)
  if (known) return known
  const spots = new Map<string, NetworkSpot>()
  const add = (s: NetworkSpot) => spots.has(s.path.join()) || spots.set(s.path.join(), s)
  for (const b of g.boxes) {
    const [x, y] = [across(b.x), along(b.y) - 12]
    const size = { width: across(b.x + b.width - 1) - x, height: along(b.y + b.height - 1) - 4 - y }
    add({ kind: 'box', path: b.path, text: b.heading, of: b.heading, start: b.start, end: b.end, x, y, ...size })
  }
  for (const w of g.words) {
    const [x, width] = [across(w.x) - 8, w.text.length * letter + 14]
    const of = g.boxes.find((b) => b.inputs.some((p) => p.path.join() === w.path.join()))?.heading ?? ''
    const { path, text, start, end } = w
    add({ kind: w.target ? 'target' : 'value', path, text, of, start, end, x, y: along(w.y) - 11, width, height: 22 })
  }
  for (const b of g.boxes)
    b.inputs.forEach((p, n) => {
      const [x, y] = [across(b.x) - 16, along(b.y + 1 + n) - 10]
      const kind = p.open ? 'open' : 'wire'
      add({ kind, path: p.path, text: '', of: b.heading, start: 0, end: 0, x, y, width: 26, height: 20 })
    })
  const list = [...spots.values()].filter((s) => s.path.length).sort((a, b) => a.x - b.x || a.y - b.y)
  looked.set(g, list)
  return list
}
