// How a recorded signal is drawn: a line in a lane of a diagram.
import type { Column } from './api'
import { bounds, valueAt } from './trace'

/** The least and the greatest value of a column; a bit has both always. */
export function range(c: Column, scans: number): [number, number] {
  if (c.type === 'BOOL') return [0, 1]
  let low = Infinity
  let high = -Infinity
  const edges = [...c.segments.map(([scan]) => scan), scans]
  c.segments.forEach(([scan, value], i) => {
    const last = valueAt(c, Math.max(edges[i + 1] - 1, scan))
    low = Math.min(low, Number(value), last)
    high = Math.max(high, Number(value), last)
  })
  return low === high ? [low - 1, high] : [low, high]
}

/** Where a line is drawn: the scans in view, where a scan lies, and the lane's top and height. */
export interface Frame {
  from: number
  to: number
  x: (scan: number) => number
  top: number
  tall: number
}

/** The line of a column of so many scans as an SVG path; filled closes it to the ground. */
export function line(c: Column, scans: number, f: Frame, filled: boolean): string {
  const end = Math.min(f.to, scans)
  if (end <= f.from || !c.segments.length) return ''
  const [low, high] = range(c, scans)
  const y = (v: number) => f.top + f.tall * (1 - (v - low) / (high - low))
  const edges = [f.from, ...bounds(c, f.from, end), end]
  let path = ''
  for (let n = 0; n + 1 < edges.length; n++) {
    const [from, to] = [edges[n], edges[n + 1]]
    const at = (scan: number, value: number) => `${f.x(scan).toFixed(1)} ${y(valueAt(c, value)).toFixed(1)}`
    path += `${n ? 'L' : 'M'}${at(from, from)}L${at(to, to - 1)}`
  }
  if (filled) path += `L${f.x(end).toFixed(1)} ${f.top + f.tall}L${f.x(f.from).toFixed(1)} ${f.top + f.tall}Z`
  return path
}
