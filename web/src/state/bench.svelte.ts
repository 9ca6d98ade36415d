import type { Exercise, Point, Why } from '../api'
import type { Rehearsal } from './rehearsal.svelte'
import type { Core, Lane, Looked, Rung } from '../core/core'

export type Speed = 'scan a second' | 'a tenth' | 'real' | 'ten times'

/** Scans of plant time that go by in a second of the clock. */
const pace: Record<Speed, (periodMs: number) => number> = {
  'scan a second': () => 1,
  'a tenth': (p) => 100 / p,
  real: (p) => 1000 / p,
  'ten times': (p) => 10_000 / p,
}

const faces: Record<string, [string, string]> = { TON: ['ET', 'PT'], TOF: ['ET', 'PT'], TP: ['ET', 'PT'], TACC: ['ET', 'PT'], CTU: ['CV', 'PV'], CTD: ['CV', 'PV'], CTUD: ['CV', 'PV'] }

/** A program at work, driven by hand. It knows the core and no page. */
export class Bench {
  readonly exercise: Exercise
  readonly core: Core
  ready = $state(false)
  problem = $state('')
  /** A program is on the bench. */
  loaded = $state(false)
  /** What became of the last text: it runs, or why the old one goes on. */
  notice = $state('')
  running = $state(false)
  speed = $state<Speed>('real')
  view = $state<Looked | null>(null)
  /** The scan being looked at; null is now. */
  at = $state<number | null>(null)
  watch = $state<string[]>([])
  names = $state<string[]>([])
  rungs = $state<Rung[]>([])
  states = $state<Record<string, number>>({})
  broken = $state<Record<string, boolean>>({})
  lanes = $state<Lane[]>([])
  span = $state(400)
  why = $state<Why | null>(null)
  /** Where a played scenario stops: behind its first difference, or at its end. */
  #until: number | null = null
  /** The text that was put on the bench last, whether it runs or not. */
  #text = ''
  #busy = false
  #due = 0
  #last = 0
  #frame = 0

  /** The core must have the exercise open. */
  constructor(exercise: Exercise, core: Core, opened: Promise<unknown>) {
    this.exercise = exercise
    this.core = core
    this.watch = [...exercise.inputs, ...exercise.outputs].map((p) => p.name).slice(0, 8)
    this.#rest()
    opened.then(
      () => (this.ready = true),
      (error: Error) => (this.problem = error.message + ' You can still write, check and hand in.'),
    )
  }

  get periodMs() {
    const [, n, unit] = /^([\d.]+)\s*(us|ms|s)$/.exec(this.exercise.period) ?? ['', '10', 'ms']
    return Number(n) * ({ us: 0.001, ms: 1, s: 1000 }[unit] ?? 1)
  }

  get points(): Point[] {
    return [...this.exercise.inputs, ...this.exercise.outputs]
  }

  value(name: string) {
    return this.view?.values[name]
  }

  flow(start: number) {
    const found = this.view?.flows.find((f) => f[0] === start)
    return found ? { in: !!found[1], out: !!found[2], closed: !!found[3] } : undefined
  }

  /** A timer's or counter's face: 3.2 s of 5 s. */
  face(label: string, type: string): string {
    const members = faces[type.split('_')[0].toUpperCase()]
    if (!members) return ''
    const [now, end] = members.map((m) => this.value(label + '.' + m))
    return now === undefined ? '' : `${now} of ${end}`
  }

  #rest() {
    for (const p of this.exercise.inputs) {
      this.states[p.name] = p.initial ?? 0
      this.broken[p.name] = false
    }
  }

  /** Everything whose value the page shows. */
  #shown() {
    const names = new Set([...this.watch, ...this.points.map((p) => p.name)])
    for (const r of this.rungs) {
      for (const i of r.Items ?? []) {
        if (i.Kind === 'box') for (const m of faces[i.Type.split('_')[0].toUpperCase()] ?? []) names.add(i.Label + '.' + m)
        else if (i.Label) names.add(i.Label)
      }
    }
    return [...names]
  }

  /** A text without rungs shows its values in the watch list. */
  #watchVariables() {
    const own = this.names.filter((n) => !this.watch.includes(n) && !/\.(IN|PT|PV|CU|CD|R|LD|CLK)$/.test(n))
    this.watch = [...this.watch, ...own].slice(0, 12)
  }

  /** What was done by hand, as a scan table that does it again. */
  async script(): Promise<string> {
    return (await this.core.script()).table
  }

  async #try(work: () => Promise<void>) {
    try {
      this.problem = ''
      await work()
    } catch (error) {
      this.problem = (error as Error).message
    }
  }

  async draw(file: string, text: string) {
    await this.#try(async () => void (this.rungs = await this.core.draw({ file, text })))
  }

  /** Puts a program on the bench, from the beginning. */
  async start(file: string, text: string) {
    this.#text = text
    await this.#try(async () => {
      await this.draw(file, text)
      const put = await this.core.start({ file, text })
      this.loaded ||= put.runs
      this.notice = put.runs ? '' : `This text has ${put.summary}, so it cannot run. Mend it, and it runs.`
      if (!put.runs) return
      this.#until = null
      this.names = put.names
      if (!this.rungs.length) this.#watchVariables()
      this.at = null
      this.why = null
      this.#rest()
      await this.#advance(1)
    })
  }

  /** Plays a scenario from the beginning; stops where the hand-in first went wrong. */
  async play(file: string, text: string, r: Rehearsal) {
    this.#text = text
    this.notice = ''
    await this.#try(async () => {
      await this.draw(file, text)
      const put = await this.core.play({ file, text }, r.evidence.inputs, r.evidence.expected)
      this.loaded ||= put.runs
      this.notice = put.runs ? '' : `This text has ${put.summary}, so it cannot run. Mend it, and play it again.`
      if (!put.runs) return
      this.names = put.names
      this.why = null
      this.#until = r.until === undefined ? r.evidence.inputs.scans : r.until + 1
      await this.zoom(1000)
      await this.#advance(1)
      this.run()
    })
  }

  /** Goes on with a changed text; one with errors leaves the old one running. */
  async replace(file: string, text: string) {
    if (text === this.#text) return
    if (!this.loaded) return this.start(file, text)
    this.#text = text
    await this.#try(async () => {
      const put = await this.core.replace({ file, text })
      this.notice = put.runs ? '' : `The text has ${put.summary}; the program before it goes on running.`
      if (!put.runs) return
      this.names = put.names
      this.at = null
      this.why = null
      await this.draw(file, text)
      await this.#advance(1)
    })
  }

  async #advance(scans: number) {
    this.at = null
    this.view = await this.core.run(scans, this.#shown())
    if (this.view.fault) this.pause()
    await this.#strip()
  }

  async #strip() {
    if (!this.view) return
    const to = Math.max(this.view.scans, this.span)
    this.lanes = await this.core.trace(this.watch, to - this.span, to)
  }

  get window() {
    const to = Math.max(this.view?.scans ?? 0, this.span)
    return { from: to - this.span, to }
  }

  async zoom(span: number) {
    this.span = span
    await this.#try(() => this.#strip())
  }

  scans(n: number) {
    this.pause()
    return this.#try(() => this.#advance(n))
  }

  run() {
    if (this.running || !this.loaded) return
    this.running = true
    this.at = null
    this.#last = performance.now()
    this.#due = 0
    this.#frame = requestAnimationFrame((now) => this.#tick(now))
  }

  #tick(now: number) {
    if (!this.running) return
    this.#due += (Math.min(now - this.#last, 250) / 1000) * pace[this.speed](this.periodMs)
    this.#last = now
    if (!this.#busy && this.#due >= 1) {
      const left = this.#until === null ? Infinity : this.#until - (this.view?.scans ?? 0)
      const scans = Math.min(Math.floor(this.#due), left)
      if (left <= 0) {
        this.#until = null
        this.notice = `Stopped at scan ${this.view?.scan}: here the hand-in first differed, or the scenario ends. Run goes on.`
        this.pause()
        return
      }
      this.#due -= scans
      this.#busy = true
      void this.#try(() => this.#advance(scans)).finally(() => (this.#busy = false))
    }
    this.#frame = requestAnimationFrame((later) => this.#tick(later))
  }

  pause() {
    this.running = false
    cancelAnimationFrame(this.#frame)
  }

  /** Works a device; while paused the next scan sees it. */
  async device(name: string, change: { state?: number; broken?: boolean }) {
    if (change.state !== undefined) this.states[name] = change.state
    if (change.broken !== undefined) this.broken[name] = change.broken
    if (this.loaded) await this.#try(async () => void (await this.core.device(name, change)))
  }

  async do(verb: 'force' | 'unforce' | 'write', name: string, value = '') {
    await this.#try(async () => {
      await this.core.do(verb, name, value)
      if (!this.running) await this.#advance(1)
    })
  }

  async release() {
    await this.#try(async () => {
      await this.core.release()
      if (!this.running) await this.#advance(1)
    })
  }

  /** Looks at a scan that is over. */
  async look(scan: number) {
    if (!this.view) return
    this.pause()
    const first = this.view.first
    const wanted = Math.min(Math.max(scan, first), this.view.scans - 1)
    await this.#try(async () => {
      this.view = await this.core.look(wanted, this.#shown())
      this.at = wanted === this.view.scans - 1 ? null : wanted
      if (wanted < this.window.from || wanted >= this.window.to) return
    })
  }

  async nextChange(name: string, back: boolean) {
    if (!this.view) return
    await this.#try(async () => {
      const { scan } = await this.core.next(name, this.view!.scan, back)
      if (scan >= 0) await this.look(scan)
    })
  }

  async addWatch(name: string) {
    if (!name || this.watch.includes(name)) return
    this.watch = [...this.watch, name]
    if (this.view) await this.look(this.view.scan)
    await this.#try(() => this.#strip())
  }

  async removeWatch(name: string) {
    this.watch = this.watch.filter((n) => n !== name)
    await this.#try(() => this.#strip())
  }

  async ask(name: string) {
    await this.#try(async () => void (this.why = await this.core.why(name, this.view!.scan)))
  }

}
