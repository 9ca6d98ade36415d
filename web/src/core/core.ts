// What the core answers, and how the page asks it.
import type { Checked, Exercise, Trace, Why } from '../api'

export interface Item {
  Kind: 'contact' | 'coil' | 'box'
  Row: number
  Column: number
  Rows: number
  Mark: string
  Label: string
  Type: string
  Inputs: string[] | null
  Outputs: string[] | null
  /** Of its text, from the start of the rung's. */
  Start: number
  End: number
}

/** Where a cursor can stand: on an element, or (Item -1) on the wire at the end of a series. */
export interface Spot {
  Path: number[]
  Item: number
  Row: number
  From: number
  To: number
  /** The spots on the left, on the right, above and below; -1 is none. */
  Go: [number, number, number, number]
}

export interface Geometry {
  Title: string
  Columns: number
  Rows: number
  Items: Item[] | null
  Wires: { Row: number; From: number; To: number }[] | null
  Links: { Boundary: number; FromRow: number; ToRow: number }[] | null
  Breaks?: { Row: number; NextRow: number }[]
  Spots: Spot[]
}

/** A rung at its place in the text; its geometry is the same object as long as the rung stays. */
export interface Rung {
  unit: number
  number: number
  key: string
  line: number
  start: number
  end: number
  comment?: string
  geometry: Geometry
}

export interface Unit {
  name: string
  kind: string
  ladder: boolean
  line: number
}

export interface Drawn {
  units: Unit[]
  rungs: Rung[]
}

export interface Place {
  unit: number
  rung: number
  path: number[]
}

export interface Variable {
  name: string
  section?: string
  type: string
  address?: string
  initial?: string
  description?: string
}

/** One change of a text; see the core's rewrite room. */
export type Step =
  | { do: 'put' | 'branch' | 'branch below' | 'remove'; at: Place; count?: number; text?: string }
  | { do: 'insert rung' | 'remove rung' | 'move rung' | 'title' | 'comment'; at: Place; text?: string; to?: number }
  | { do: 'declare' | 'redeclare' | 'undeclare'; at: { unit: number }; variable: Variable | { name: string } }
  | { do: 'rename'; offset: number; text: string }

export interface NamePlace {
  name: string
  use: 'declares' | 'reads' | 'writes' | 'calls'
  line: number
  column: number
  end: number
  offset: number
  words: string
}

export type Listed = Required<Variable> & { line: number; unit: number; places: NamePlace[] | null }

export interface Block {
  name: string
  purpose: string
  pins: { name: string; type: string; output: boolean }[] | null
  power: string
  function: boolean
}

export interface Looked {
  scan: number
  scans: number
  first: number
  time: string
  values: Record<string, string>
  /** When each value came: scan 12. */
  since: Record<string, string>
  flows: [start: number, powerIn: number, powerOut: number, closed: number][]
  forced: string[]
  fault: string
  line: number
  states: Record<string, number>
  broken: Record<string, boolean>
}

/** What is shown of a scan. */
export interface Shown {
  names: string[]
  from?: number
  to?: number
  instances?: Record<string, string>
}

export interface Lane {
  name: string
  bool: boolean
  changes: [scan: number, value: number][]
}

export interface Put {
  runs: boolean
  summary: string
  names: string[]
  instances: Record<string, string[]>
}

type Sent = { units: Unit[]; rungs: Omit<Rung, 'geometry'>[]; fresh: Record<string, Geometry> }

interface Program {
  file: string
  text: string
}

/** The core in its worker. One serves the page; calls are answered in order. */
export class Core {
  #worker: Worker
  #waiting = new Map<number, { done: (answer: unknown) => void; fail: (error: Error) => void }>()
  #last = 0
  #broken: Error | null = null

  constructor() {
    this.#worker = new Worker(new URL('./worker.ts', import.meta.url), { type: 'module' })
    this.#worker.onmessage = (event: MessageEvent<{ id: number; answer?: string; problem?: string }>) => {
      const { id, answer, problem } = event.data
      const waiting = this.#waiting.get(id)
      this.#waiting.delete(id)
      if (problem !== undefined) waiting?.fail(new Error(problem))
      else waiting?.done(JSON.parse(answer ?? 'null'))
    }
    this.#worker.onerror = () => {
      this.#broken = new Error('The core could not be loaded.')
      for (const { fail } of this.#waiting.values()) fail(this.#broken)
      this.#waiting.clear()
    }
  }

  #call<T>(call: string, argument: unknown = {}): Promise<T> {
    if (this.#broken) return Promise.reject(this.#broken)
    const id = ++this.#last
    return new Promise<T>((done, fail) => {
      this.#waiting.set(id, { done: done as (answer: unknown) => void, fail })
      this.#worker.postMessage({ id, call, argument: JSON.stringify(argument) })
    })
  }

  open = (e: Exercise) => this.#call<object>('open', { period: e.period, inputs: e.inputs, outputs: e.outputs, graded: e.graded, tasks: e.tasks })
  check = (p: Program) => this.#call<Checked>('check', p)
  format = (p: Program) => this.#call<{ text: string }>('format', p)
  #geometry = new Map<string, Geometry>()

  #assemble(d: Sent): Drawn {
    for (const [key, geometry] of Object.entries(d.fresh)) this.#geometry.set(key, geometry)
    return { units: d.units, rungs: d.rungs.map((r) => ({ ...r, geometry: this.#geometry.get(r.key)! })) }
  }

  /** Draws a program with rungs of at most so many columns. */
  draw = async (p: Program, columns = 12) => this.#assemble(await this.#call<Sent>('draw', { ...p, columns }))
  amend = async (p: Program, columns: number, steps: Step[]) => {
    const { text, at, drawn } = await this.#call<{ text: string; at: Place; drawn: Sent }>('amend', { ...p, columns, steps })
    return { text, at, drawn: this.#assemble(drawn) }
  }
  clip = (p: Program, at: Place, count: number) => this.#call<{ text: string }>('clip', { ...p, at, count })
  names = (p: Program, line: number, column: number) => this.#call<NamePlace[]>('names', { ...p, line, column })
  variables = (p: Program) => this.#call<Listed[]>('variables', p)
  blocks = (p: Program) => this.#call<Block[]>('blocks', p)
  start = (p: Program) => this.#call<Put>('start', p)
  play = (p: Program, script: Trace, expected: Trace) => {
    const sent = (t: Trace) => ({ period: t.period, scans: t.scans, signals: t.signals })
    return this.#call<Put>('play', { ...p, script: sent(script), expected: sent(expected) })
  }
  replace = (p: Program) => this.#call<Put>('replace', p)
  device = (name: string, change: { state?: number; broken?: boolean }) => this.#call<object>('device', { name, ...change })
  do = (verb: 'force' | 'unforce' | 'write' | 'restart', name: string, value = '') => this.#call<object>('do', { verb, name, value })
  release = () => this.#call<object>('release')
  run = (scans: number, shown: Shown) => this.#call<Looked>('run', { scans, ...shown })
  look = (scan: number, shown: Shown) => this.#call<Looked>('look', { scan, ...shown })
  back = (scan: number, shown: Shown) => this.#call<Looked>('back', { scan, ...shown })
  trace = (names: string[], from: number, to: number) => this.#call<Lane[]>('trace', { names, from, to })
  next = (name: string, scan: number, back: boolean) => this.#call<{ scan: number }>('next', { name, scan, back })
  why = (name: string, scan: number) => this.#call<Why>('why', { name, scan })
  script = () => this.#call<{ table: string; scenario: string }>('script')
  grade = (files: Record<string, string>, p: Program) => this.#call<object>('grade', { files, ...p })
  end() {
    this.#worker.terminate()
  }
}
