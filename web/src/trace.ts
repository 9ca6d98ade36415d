// Reading recorded signals. A column is segments [scan, value, slope]; see the
// API's description of a trace.

import type { Column, Trace } from './api'

export function valueAt(column: Column, scan: number): number {
  let value = 0
  for (const [from, start, slope] of column.segments) {
    if (from > scan) break
    value = Number(start) + slope * (scan - from)
  }
  return value
}

/** The scans at which the column takes a new straight line, within from … to. */
export function bounds(column: Column, from: number, to: number): number[] {
  return column.segments.map(([scan]) => scan).filter((scan) => scan > from && scan < to)
}

/** What two columns are compared by: texts by their letters, all else by its number. */
const comparable = (c: Column, scan: number) =>
  c.type === 'STRING' ? formatValue(c, valueAt(c, scan)) : valueAt(c, scan)

/** Stretches [from, to) in which two columns have different values. */
export function differences(a: Column, b: Column, scans: number): [number, number][] {
  const edges = [0, ...bounds(a, 0, scans), ...bounds(b, 0, scans), scans].sort((x, y) => x - y)
  const list: [number, number][] = []
  for (let i = 0; i + 1 < edges.length; i++) {
    const [from, to] = [edges[i], edges[i + 1]]
    if (from === to) continue
    const differs = comparable(a, from) !== comparable(b, from) || comparable(a, to - 1) !== comparable(b, to - 1)
    if (!differs) continue
    const last = list.at(-1)
    if (last && last[1] === from) last[1] = to
    else list.push([from, to])
  }
  return list
}

export function columnNamed(trace: Trace, name: string): Column | undefined {
  return trace.signals.find((c) => c.name.toLowerCase() === name.toLowerCase())
}

const units: [string, number][] = [
  ['d', 864e11],
  ['h', 36e11],
  ['m', 6e10],
  ['s', 1e9],
  ['ms', 1e6],
  ['us', 1e3],
  ['ns', 1],
]

/** A value as people read it: TRUE, 12, T#1m30s. */
export function formatValue(column: Column, value: number): string {
  if (column.type === 'BOOL') return value ? 'TRUE' : 'FALSE'
  if (column.type === 'STRING') return column.texts?.[value] ?? ''
  if (column.type !== 'TIME') return String(value)
  if (value === 0) return 'T#0s'
  let rest = Math.abs(value)
  let text = value < 0 ? 'T#-' : 'T#'
  for (const [name, size] of units) {
    const n = Math.floor(rest / size)
    if (n > 0) text += n + name
    rest %= size
  }
  return text
}

/** A value of a result, which is JSON already. */
export function wordFor(value: unknown): string {
  return typeof value === 'boolean' ? (value ? 'TRUE' : 'FALSE') : String(value)
}

/** An instant for people: 4.12 s. */
export function clock(trace: Trace, scan: number): string {
  return Number(((scan * trace.period) / 1e9).toFixed(6)) + ' s'
}

/** A scan as an exercise writes it: 300ms, 1.5s, or, where its time is no whole number of milliseconds, scan 40. */
export function moment(trace: Trace, scan: number): string {
  const ns = scan * trace.period
  if (ns % 1e6) return 'scan ' + scan
  return ns > 0 && ns < 1e9 ? ns / 1e6 + 'ms' : ns / 1e9 + 's'
}

/** A length of time for people: 1.59 s, 250 ms, 1 min 30 s. */
export function lengthOf(ns: number): string {
  const digits = (n: number) => String(Number(n.toFixed(6)))
  if (ns < 0) return '-' + lengthOf(-ns)
  if (ns >= 6e10) {
    const rest = ns % 6e10
    return `${Math.floor(ns / 6e10)} min` + (rest ? ' ' + lengthOf(rest) : '')
  }
  return ns >= 1e9 || ns === 0 ? digits(ns / 1e9) + ' s' : digits(ns / 1e6) + ' ms'
}

/** A round number of scans from one mark of an axis to the next, so that there are about so many of them. */
export function tickEvery(scans: number, periodMs: number, most: number): number {
  const least = Math.max(1, scans / Math.max(most, 1))
  // Marks stand at round times where scans are many, at round scans where they are few.
  const per = least * periodMs >= 100 ? 1 / periodMs : 1
  let step = 10 ** Math.floor(Math.log10(least / per))
  for (const by of [1, 2, 5, 10]) {
    const every = Math.round(step * by * per)
    if (every >= least) return every
  }
  step *= 10
  return Math.max(1, Math.round(step * per))
}
