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
  Span: { Start: number }
}

export interface Rung {
  Title: string
  Columns: number
  Rows: number
  Items: Item[] | null
  Wires: { Row: number; From: number; To: number }[] | null
  Links: { Boundary: number; FromRow: number; ToRow: number }[] | null
  Unit: string
  Line: number
  Start: number
  End: number
}

export interface Looked {
  scan: number
  scans: number
  first: number
  time: string
  values: Record<string, string>
  flows: [start: number, powerIn: number, powerOut: number, closed: number][]
  forced: string[]
  fault: string
  line: number
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
}

interface Program {
  file: string
  text: string
}

/** The core in its worker. One serves the page; calls are answered in order. */
export class Core {
  #worker: Worker
  #waiting = new Map<number, { done: (answer: unknown) => void; fail: (error: Error) => void }>()
  #last = 0

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
      for (const { fail } of this.#waiting.values()) fail(new Error('The core could not be loaded.'))
      this.#waiting.clear()
    }
  }

  #call<T>(call: string, argument: unknown = {}): Promise<T> {
    const id = ++this.#last
    return new Promise<T>((done, fail) => {
      this.#waiting.set(id, { done: done as (answer: unknown) => void, fail })
      this.#worker.postMessage({ id, call, argument: JSON.stringify(argument) })
    })
  }

  open = (e: Exercise) => this.#call<object>('open', { period: e.period, inputs: e.inputs, outputs: e.outputs, graded: e.graded, tasks: e.tasks })
  check = (p: Program) => this.#call<Checked>('check', p)
  format = (p: Program) => this.#call<{ text: string }>('format', p)
  draw = (p: Program) => this.#call<Rung[]>('draw', p)
  start = (p: Program) => this.#call<Put>('start', p)
  play = (p: Program, script: Trace, expected: Trace) => {
    const sent = (t: Trace) => ({ period: t.period, scans: t.scans, signals: t.signals })
    return this.#call<Put>('play', { ...p, script: sent(script), expected: sent(expected) })
  }
  replace = (p: Program) => this.#call<Put>('replace', p)
  device = (name: string, change: { state?: number; broken?: boolean }) => this.#call<object>('device', { name, ...change })
  do = (verb: 'force' | 'unforce' | 'write', name: string, value = '') => this.#call<object>('do', { verb, name, value })
  release = () => this.#call<object>('release')
  run = (scans: number, names: string[]) => this.#call<Looked>('run', { scans, names })
  look = (scan: number, names: string[]) => this.#call<Looked>('look', { scan, names })
  trace = (names: string[], from: number, to: number) => this.#call<Lane[]>('trace', { names, from, to })
  next = (name: string, scan: number, back: boolean) => this.#call<{ scan: number }>('next', { name, scan, back })
  why = (name: string, scan: number) => this.#call<Why>('why', { name, scan })
  script = () => this.#call<{ table: string }>('script')
  grade = (files: Record<string, string>, p: Program) => this.#call<object>('grade', { files, ...p })
  end() {
    this.#worker.terminate()
  }
}
