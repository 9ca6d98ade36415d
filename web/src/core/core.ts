// The core as the page asks it. The types of its calls are made from the core's own.
import type { Exercise, Trace } from '../contract'
import { editing } from './calls'
import type { Calls, Drawn as Sent, Geometry, Network, Place, Program, Rung as Known, Step } from './calls'

export type {
  Box,
  Device,
  Opened,
  Geometry,
  Item,
  Lane,
  Link,
  Listed,
  Looked,
  LookAt,
  NamePlace,
  Network,
  NetworkBox,
  NetworkLine,
  Place,
  Put,
  Spot,
  Step,
  Unit,
  Variable,
  Wire,
  Stage,
  Word,
} from './calls'

/** A rung at its place in the text; its geometry is the same object as long as the rung stays. */
export type Rung = Known & { geometry: Geometry }

/** A network of a block diagram at its place in the text. */
export type PlacedNetwork = Known & { geometry: Network }

/** A program as it is drawn; nothing of it, as long as nothing is known. */
export type Drawn = { units: Sent['units']; rungs: Rung[]; networks: PlacedNetwork[] }

export const undrawn: Drawn = { units: [], rungs: [], networks: [] }

/** What is shown of a scan. */
export type Shown = Omit<Calls['look']['in'], 'scan'>

/** What answers calls: a worker in the browser, the core itself in tests. */
export interface Host {
  ask(call: string, argument: string): Promise<string>
  end(): void
}

/** How long a worker may take to load, and then for one call, in ms: after that it answers no more, and is started again. */
const limits = { load: 300_000, call: 60_000 }

type FromWorker = { id: number; answer?: string; problem?: string } | { now: 'loaded' | 'stopped' }

/** A part of the core in a worker of its own. A worker that has stopped, or answers no more, is started again. */
export class WorkerHost implements Host {
  #name: 'editor' | 'whole'
  #restarted: () => void
  #worker: Worker
  #waiting = new Map<number, { done: (answer: string) => void; fail: (error: Error) => void }>()
  #last = 0
  #opened: string | null = null
  #loaded = false
  #timer?: ReturnType<typeof setTimeout>
  #restarts = 0
  #broken: Error | null = null

  constructor(name: 'editor' | 'whole', restarted: () => void) {
    this.#name = name
    this.#restarted = restarted
    this.#worker = this.#start()
  }

  #start() {
    const worker = new Worker(new URL('./worker.ts', import.meta.url), { type: 'module', name: this.#name })
    worker.onmessage = (event: MessageEvent<FromWorker>) => this.#hear(event.data)
    worker.onerror = () => this.#breakOff(new Error('The core could not be loaded.'))
    return worker
  }

  #hear(said: FromWorker) {
    if ('id' in said) {
      const waiting = this.#waiting.get(said.id)
      this.#waiting.delete(said.id)
      if (said.problem !== undefined) waiting?.fail(new Error(said.problem))
      else waiting?.done(said.answer ?? 'null')
    } else if (said.now === 'stopped') return this.#restart()
    else this.#loaded = true
    this.#wait()
  }

  /** Waits for the next answer, if one is due. */
  #wait() {
    clearTimeout(this.#timer)
    if (this.#waiting.size) this.#timer = setTimeout(() => this.#restart(), limits[this.#loaded ? 'call' : 'load'])
  }

  #refuse(error: Error) {
    clearTimeout(this.#timer)
    for (const { fail } of this.#waiting.values()) fail(error)
    this.#waiting.clear()
  }

  #breakOff(error: Error) {
    this.#broken = error
    this.#refuse(error)
  }

  /** Three times at most: something may stop it each time. */
  #restart() {
    this.#worker.terminate()
    if (++this.#restarts > 3) return this.#breakOff(new Error('The core keeps stopping. Load the page again.'))
    this.#loaded = false
    this.#refuse(new Error('The core did not answer and was started again. Try once more.'))
    this.#worker = this.#start()
    if (this.#opened !== null) void this.ask('open', this.#opened).catch(() => {})
    this.#restarted()
  }

  ask(call: string, argument: string): Promise<string> {
    if (this.#broken) return Promise.reject(this.#broken)
    if (call === 'open') this.#opened = argument
    const id = ++this.#last
    return new Promise((done, fail) => {
      this.#waiting.set(id, { done, fail })
      if (this.#waiting.size === 1) this.#wait()
      this.#worker.postMessage({ id, call, argument })
    })
  }

  end() {
    clearTimeout(this.#timer)
    this.#worker.terminate()
  }
}

/** The core as it is loaded: first what answers a key, and behind it, or when it is asked for, the whole. */
export class Loading implements Host {
  #load: (name: 'editor' | 'whole') => Host
  #editor: Host | null = null
  #whole: Host | null = null
  #opened: string | null = null
  /** Is told when a part was started again: what it held, such as the run on the bench, is gone. */
  restarted: () => void = () => {}

  constructor(load?: (name: 'editor' | 'whole') => Host) {
    this.#load = load ?? ((name) => new WorkerHost(name, () => this.restarted()))
  }

  ask(call: string, argument: string): Promise<string> {
    if (!editing.includes(call)) return this.#all().ask(call, argument)
    if (call === 'open') {
      this.#opened = argument
      if (this.#whole) void this.#whole.ask(call, argument).catch(() => {}) // the editor tells what is wrong
    }
    this.#editor ??= this.#load('editor')
    const answer = this.#editor.ask(call, argument)
    if (!this.#whole) void answer.catch(() => {}).then(() => this.#ended || this.#all())
    return answer
  }

  #ended = false

  #all(): Host {
    if (this.#whole) return this.#whole
    const whole = (this.#whole = this.#load('whole'))
    if (this.#opened !== null) void whole.ask('open', this.#opened).catch(() => {})
    return whole
  }

  end() {
    this.#ended = true
    this.#editor?.end()
    this.#whole?.end()
  }
}

/** One serves the page; calls are answered in order. */
export class Core {
  #host: Host
  #geometry = new Map<string, Geometry>()
  #laid = new Map<string, Network>()

  constructor(host: Host = new Loading()) {
    this.#host = host
  }

  async #call<K extends keyof Calls>(call: K, argument: Calls[K]['in']): Promise<Calls[K]['out']> {
    return JSON.parse(await this.#host.ask(call, JSON.stringify(argument)))
  }

  /** A call of the workshop, which is about the folder that is sent with it. */
  ask = <K extends keyof Calls>(call: K, argument: Calls[K]['in']) => this.#call(call, argument)

  /** Where a trace is predicted the program is given, in whatever language. */
  open = ({ period, inputs, outputs, graded, tasks, kind, languages }: Exercise) =>
    this.#call('open', {
      period,
      inputs,
      outputs,
      graded,
      tasks,
      languages: kind === 'predict' ? [] : (languages ?? []),
    })
  check = (p: Program) => this.#call('check', p)
  format = (p: Program) => this.#call('format', p)
  /** The same program in another language. */
  convert = (p: Program, language: string) => this.#call('convert', { ...p, language })

  #assemble(d: Sent): Drawn {
    for (const [key, geometry] of Object.entries(d.fresh)) this.#geometry.set(key, geometry)
    for (const [key, network] of Object.entries(d.laid)) this.#laid.set(key, network)
    return {
      units: d.units,
      rungs: d.rungs.map((r) => ({ ...r, geometry: this.#geometry.get(r.key)! })),
      networks: d.networks.map((n) => ({ ...n, geometry: this.#laid.get(n.key)! })),
    }
  }

  /** Draws a program with rungs of at most so many columns. */
  draw = async (p: Program, columns = 12) => this.#assemble(await this.#call('draw', { ...p, columns }))
  amend = async (p: Program, columns: number, steps: Step[]) => {
    const { text, at, drawn } = await this.#call('amend', { ...p, columns, steps })
    return { text, at, drawn: this.#assemble(drawn) }
  }
  clip = (p: Program, at: Place, count: number) => this.#call('clip', { ...p, at, count })
  names = (p: Program, line: number, column: number) => this.#call('names', { ...p, line, column })
  variables = (p: Program) => this.#call('variables', p)
  blocks = (p: Program) => this.#call('blocks', p)
  complete = (p: Program, line: number, column: number) => this.#call('complete', { ...p, line, column })
  describe = (p: Program, line: number, column: number) => this.#call('describe', { ...p, line, column })
  implied = (p: Program, name: string) => this.#call('implied', { ...p, name })
  start = (p: Program) => this.#call('start', p)
  /** Plays a script; what is expected stands beside, or what was drawn. */
  play = (p: Program, script: Trace, expected: Trace, drawn = false) => {
    const sent = ({ period, scans, signals, acts }: Trace) => ({ period, scans, signals, acts })
    return this.#call('play', { ...p, script: sent(script), expected: sent(expected), drawn })
  }
  replace = (p: Program) => this.#call('replace', p)
  device = (name: string, change: { state?: number; broken?: boolean }) => this.#call('device', { name, ...change })
  do = (verb: 'force' | 'unforce' | 'write' | 'restart', name: string, value = '') =>
    this.#call('do', { verb, name, value })
  release = () => this.#call('release', {})
  run = (scans: number, shown: Shown) => this.#call('run', { scans, scan: -1, ...shown })
  look = (scan: number, shown: Shown) => this.#call('look', { scan, ...shown })
  back = (scan: number, shown: Shown) => this.#call('back', { scan, ...shown })
  trace = (names: string[], from: number, to: number) => this.#call('trace', { names, from, to })
  next = (name: string, scan: number, back: boolean) => this.#call('next', { name, scan, back })
  why = (name: string, scan: number) => this.#call('why', { name, scan })
  /** A scan step by step. */
  walk = (scan: number) => this.#call('walk', { scan })
  /** Everything that lies at an address. */
  words = () => this.#call('words', {})
  /** How the panel is wired, as a picture. */
  wiring = () => this.#call('wiring', {})
  script = () => this.#call('script', {})
  grade = (files: Record<string, string>, p: Program) => this.#call('grade', { files, ...p })
  end() {
    this.#host.end()
  }
}
