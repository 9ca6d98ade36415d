// What somebody draws of a signal before anything runs, and how it is written: the text of a prediction, scenario by scenario.
import type { Trace } from './api'

/** A signal as its changes, [scan, value], the first at scan 0. */
export type Line = [number, number][]

/** What is said of one scenario: a line for each signal, or why nobody can tell, '' while no reason is chosen. */
export interface Drawn {
  lines: Record<string, Line>
  erratic?: string
}

export function valueOf(line: Line, scan: number): number {
  let value = 0
  for (const [at, v] of line) {
    if (at > scan) break
    value = v
  }
  return value
}

/** The first change after a scan; where there is none, the end. */
export function changeAfter(line: Line, scan: number, scans: number): number {
  return line.find(([at]) => at > scan)?.[0] ?? scans
}

/** The line with a value from a scan up to, but without, another. */
export function painted(line: Line, from: number, to: number, value: number, scans: number): Line {
  const after = to < scans ? valueOf(line, to) : undefined
  const points: Line = [
    ...line.filter(([at]) => at < from),
    [from, value],
    ...(after === undefined ? [] : [[to, after] as [number, number]]),
    ...line.filter(([at]) => at > to),
  ]
  if (points[0][0] > 0) points.unshift([0, 0])
  return points.filter(([, v], n) => n === 0 || v !== points[n - 1][1])
}

/** The line without its change number n; the value before it goes on. */
export function without(line: Line, n: number): Line {
  const points = line.filter((_, i) => i !== n || i === 0)
  return points.filter(([, v], i) => i === 0 || v !== points[i - 1][1])
}

/** The line with its change number n elsewhere, between its neighbours. */
export function moved(line: Line, n: number, to: number, scans: number): Line {
  if (n === 0) return line
  const least = line[n - 1][0] + 1
  const most = (line[n + 1]?.[0] ?? scans) - 1
  return line.map(([at, v], i) => (i === n ? [Math.min(Math.max(to, least), most), v] : [at, v]))
}

/** Reads a text as it is written by [written]; what it cannot read it leaves out, and the service tells of it. */
export function readDrawn(text: string): Record<string, Drawn> {
  const all: Record<string, Drawn> = {}
  let now: Drawn | undefined
  let names: string[] = []
  for (const line of text.split(/\r?\n/)) {
    const cells = line.split(',').map((c) => c.trim())
    if (line.trim().startsWith('#')) {
      now = all[line.trim().slice(1).trim()] = { lines: {} }
      names = []
    } else if (now && /^\s*erratic:/i.test(line)) now.erratic = line.slice(line.indexOf(':') + 1).trim()
    else if (now && cells[0] === 'scan') for (const n of (names = cells.slice(1))) now.lines[n] = []
    else if (now && /^\d+$/.test(cells[0]))
      for (const [i, n] of names.entries()) {
        const line = now.lines[n]
        const value = Number(cells[i + 1])
        if (cells[i + 1] && Number.isFinite(value) && line.at(-1)?.[1] !== value) line.push([Number(cells[0]), value])
      }
  }
  for (const d of Object.values(all))
    for (const line of Object.values(d.lines)) if (line[0]?.[0] !== 0) line.unshift([0, 0])
  return all
}

/** Writes what is drawn, in the order of the scenarios; of what nothing is said, nothing. */
export function written(scenarios: string[], signals: string[], all: Record<string, Drawn>): string {
  return scenarios.flatMap((name) => (all[name] ? [`# ${name.trim()}\n${body(signals, all[name])}`] : [])).join('\n')
}

function body(signals: string[], d: Drawn): string {
  if (d.erratic !== undefined) return `erratic: ${d.erratic}\n`
  const lines = signals.map((s) => d.lines[s] ?? [[0, 0]])
  const scans = [...new Set([0, ...lines.flatMap((l) => l.map(([at]) => at))])].sort((a, b) => a - b)
  const rows = scans.map((scan) => [scan, ...lines.map((l) => valueOf(l, scan))].join(','))
  return ['scan,' + signals.join(','), ...rows, ''].join('\n')
}

/** What is drawn as a trace, on the scans of a script. */
export function asTrace(script: Trace, signals: { signal: string; type: string }[], d: Drawn): Trace {
  return {
    period: script.period,
    scans: script.scans,
    signals: signals.map(({ signal, type }) => ({
      name: signal,
      type,
      segments: (d.lines[signal] ?? [[0, 0]]).map(([at, v]) => [at, v, 0]),
    })),
  }
}

/** The first scan at which two lines part, where a change may be so many scans off; -1 is none. */
export function apart(line: Line, other: Line, slack: number): number {
  const changes = (l: Line) => l.filter(([, v], n) => v !== (n ? l[n - 1][1] : 0))
  const [mine, theirs] = [changes(line), changes(other)]
  for (let n = 0; n < Math.max(mine.length, theirs.length); n++) {
    const [a, b] = [mine[n], theirs[n]]
    if (!a || !b) return (a ?? b)[0]
    if (a[1] !== b[1] || Math.abs(a[0] - b[0]) > slack) return Math.min(a[0], b[0])
  }
  return -1
}
