import type { Exercise, Point, Why } from '../api'
import type { Rehearsal } from './rehearsal.svelte'
import type {
  Core,
  Device,
  Lane,
  Looked,
  NetworkLine,
  Opened,
  PlacedNetwork,
  Put,
  Rung,
  Shown,
  Stage,
  Unit,
} from '../core/core'

export type Speed = 'scan a second' | 'a tenth' | 'real' | 'ten times'

/** Scans of plant time that go by in a second of the clock. */
const pace: Record<Speed, (periodMs: number) => number> = {
  'scan a second': () => 1,
  'a tenth': (p) => 100 / p,
  real: (p) => 1000 / p,
  'ten times': (p) => 10_000 / p,
}

/** The value of a lane at a scan; undefined before it begins. */
export function laneAt(l: Lane, scan: number): number | undefined {
  const s = l.segments.findLast((s) => s[0] <= scan)
  return s && s[1] + s[2] * (scan - s[0])
}

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
  view = $state.raw<Looked | null>(null)
  /** The scan being looked at; null is now. */
  at = $state<number | null>(null)
  watch = $state<string[]>([])
  names = $state<string[]>([])
  rungs = $state.raw<Rung[]>([])
  networks = $state.raw<PlacedNetwork[]>([])
  units = $state.raw<Unit[]>([])
  /** The instances of each block of one's own, and the one whose inside is shown. */
  instances = $state<Record<string, string[]>>({})
  chosen = $state<Record<string, string>>({})
  /** A second program on the same inputs, or null. */
  partner = $state<Bench | null>(null)
  /** A device was worked by hand. */
  touched = $state(false)
  /** How each kind of device is shown, and what is said of it. */
  devices = $state.raw<Record<string, Device>>({})
  states = $state<Record<string, number>>({})
  broken = $state<Record<string, boolean>>({})
  lanes = $state.raw<Lane[]>([])
  span = $state(400)
  why = $state<Why | null>(null)
  /** The scan that is looked at, step by step, and the step at which one stands; null while nobody walks through it. */
  stages = $state.raw<Stage[] | null>(null)
  step = $state(0)
  /** Where a played scenario stops: behind its first difference, or at its end. */
  #until: number | null = null
  /** Why a run stops there. */
  #because = ''
  /** The text that was put on the bench last, whether it runs or not. */
  #text = ''
  #file = ''
  /** Something was done here since it began, so that a changed text goes on with what there is. */
  #worked = false
  /** Counts the beginnings. */
  #round = 0
  /** The text that runs. */
  text = $state('')
  /** What else is shown: the rungs in view, and the names in the lines of the text in view. */
  #seen: Rung[] = []
  #range = { from: 0, to: 0 }
  #written: string[] = []
  #also: string[] = []
  #carried = $derived(new Map((this.view?.lines ?? []).map((l) => [`${l.start}-${l.end}`, l.value])))
  #flows = $derived(new Map((this.view?.flows ?? []).map((f) => [f[0], f])))
  #busy = false
  #due = 0
  #last = 0
  #frame = 0

  /** The core must have the exercise open. */
  constructor(exercise: Exercise, core: Core, opened: Promise<Opened>) {
    this.exercise = exercise
    this.core = core
    this.watch = [...exercise.inputs, ...exercise.outputs].map((p) => p.name).slice(0, 8)
    this.#rest()
    opened.then(
      ({ devices }) => {
        this.devices = devices
        this.ready = true
      },
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

  /** The power at an element; while a scan is walked through, as far as one has come in it. */
  flow(start: number) {
    if (this.stages) {
      const chosen = Object.values(this.chosen)
      const seen = (s: Stage) =>
        s.kind === 'element' && s.start === start && (!s.instance || chosen.includes(s.instance))
      const s = this.stages.findLast((s, n) => n <= this.step && seen(s))
      return s && { in: s.in, out: s.out, closed: s.closed }
    }
    const found = this.#flows.get(start)
    return found ? { in: !!found[1], out: !!found[2], closed: !!found[3] } : undefined
  }

  /**
   * What a line of a network carries: a block's output goes by its name, all else by its place in the text. While a scan is walked through
   * it carries something once its node has had its turn.
   */
  carries(n: PlacedNetwork, line: NetworkLine) {
    const { name, start, end } = line.from
    const box =
      start === end ? n.geometry.boxes.find((b) => b.instance && name.startsWith(b.instance + '.')) : line.from
    if (this.stages && !this.#hadTurn(n.start + (box?.start ?? 0), n.start + (box?.end ?? 0))) return undefined
    if (start === end) return this.value(this.inside(this.units[n.unit], name))
    return this.#carried.get(`${n.start + start}-${n.start + end}`)
  }

  /** Whether the walk has come to what stands at a place of the text. */
  #hadTurn(start: number, end: number) {
    const chosen = Object.values(this.chosen)
    return this.stages!.some(
      (s, n) => n <= this.step && s.start <= start && end <= s.end && (!s.instance || chosen.includes(s.instance)),
    )
  }

  /** A timer's or counter's face: 3.2 s of 5 s. */
  face(label: string, item: { measure?: string; preset?: string }): string {
    const now = item.measure && this.value(label + '.' + item.measure)
    return now ? `${now} of ${this.value(label + '.' + item.preset)}` : ''
  }

  #rest() {
    for (const p of this.exercise.inputs) {
      this.states[p.name] = p.initial ?? 0
      this.broken[p.name] = false
    }
  }

  /** A name as the bench has it: inside a block of one's own it is the chosen instance's. */
  inside(unit: Unit | undefined, name: string) {
    const instance = unit && this.chosen[unit.name]
    return instance ? instance + '.' + name : name
  }

  /** How a device stands in the scan that is looked at. */
  deviceState(name: string) {
    return this.at === null ? this.states[name] : (this.view?.states[name] ?? 0)
  }

  isBroken(name: string) {
    return this.at === null ? this.broken[name] : (this.view?.broken[name] ?? false)
  }

  /** Everything whose value the page shows. */
  #shown(): Shown {
    const names = new Set([...this.watch, ...this.points.map((p) => p.name), ...this.#written, ...this.#also])
    for (const r of this.#seen.length ? this.#seen : this.rungs) {
      for (const i of r.geometry.items ?? []) {
        const label = this.inside(this.units[r.unit], i.label)
        if (i.kind !== 'box' && i.label) names.add(label)
        for (const member of [i.measure, i.preset]) if (member) names.add(label + '.' + member)
      }
    }
    for (const n of this.networks) for (const name of this.#ofNetwork(n)) names.add(name)
    return { names: [...names], ...this.#range, instances: this.chosen }
  }

  /** What is shown of a network by its name: what blocks measure, and what comes out of them. */
  #ofNetwork(n: PlacedNetwork): string[] {
    const inside = (name: string) => this.inside(this.units[n.unit], name)
    const measured = n.geometry.boxes.flatMap((b) =>
      b.measure ? [`${b.instance}.${b.measure}`, `${b.instance}.${b.preset}`] : [],
    )
    const lines = n.geometry.lines.flatMap((l) => (l.from.start === l.from.end && l.from.name ? [l.from.name] : []))
    return [...measured, ...lines].map(inside)
  }

  /** These rungs, at this stretch of the text, are in view. */
  see(rungs: Rung[], range: { from: number; to: number }) {
    this.#seen = rungs
    this.#range = range
    this.#again()
  }

  /** These names are shown elsewhere on the page. */
  alsoShow(names: string[]) {
    this.#also = names
    this.#again()
  }

  /** These names stand in the lines in view. */
  read(names: string[]) {
    this.#written = names
    this.#again()
  }

  /** Shows the inside of another instance. */
  choose(block: string, instance: string) {
    this.chosen[block] = instance
    this.#again()
  }

  #soon?: ReturnType<typeof setTimeout>
  /** Looks again at the same scan, when what is in view has changed while nothing runs. */
  #again() {
    clearTimeout(this.#soon)
    if (this.loaded && !this.running) this.#soon = setTimeout(() => this.view && void this.look(this.view.scan), 30)
  }

  /** What is worth a look of a rung: its names, of a block what it measures and whether it is done. */
  namesOf(r: Rung): string[] {
    const list = r.geometry.items.flatMap((i) => {
      const label = this.inside(this.units[r.unit], i.label)
      if (i.kind !== 'box') return [label]
      return this.names.filter(
        (n) => n === `${label}.${i.measure}` || [`${label}.Q`, `${label}.QU`, `${label}.QD`].includes(n),
      )
    })
    return [...new Set(list)].filter((n) => this.names.includes(n))
  }

  /** A text without rungs shows its values in the watch list. */
  #watchVariables() {
    const own = this.names.filter(
      (n) => !this.watch.includes(n) && n !== 'FIRST_SCAN' && !/\.(IN|PT|PV|CU|CD|R|LD|CLK)$/.test(n),
    )
    this.watch = [...this.watch, ...own].slice(0, 12)
  }

  /** What was done by hand, as a scan table that does it again. */
  script() {
    return this.core.script()
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
    await this.#try(async () => {
      const drawn = await this.core.draw({ file, text })
      this.rungs = drawn.rungs
      this.networks = drawn.networks
      this.units = drawn.units
    })
  }

  /** Puts a program on the bench, from the beginning; the other beside it begins anew with it. */
  start(file: string, text: string) {
    this.#forget()
    return this.#afresh(file, text)
  }

  /** The last beginning that is under way: what is done meanwhile is done after it, to both programs. */
  #beginning: Promise<void> | null = null

  #afresh(file: string, text: string) {
    return this.#inTurn(() => this.#fromScratch(file, text))
  }

  /** Beginnings come one after the other: two at once would take each other's scans. */
  async #inTurn(begin: () => Promise<void>) {
    const before = this.#beginning
    const beginning = before ? before.then(begin) : begin()
    this.#beginning = beginning
    await beginning
    if (this.#beginning === beginning) this.#beginning = null
  }

  async #fromScratch(file: string, text: string) {
    this.#round++
    const other = this.partner
    if (other) await other.#begin(other.#file, other.#text)
    if (await this.#begin(file, text)) await this.#try(() => this.#advance(1))
  }

  async #begin(file: string, text: string) {
    this.#text = text
    this.#file = file
    this.#worked = false
    let runs = false
    await this.#try(async () => {
      await this.draw(file, text)
      const put = await this.core.start({ file, text })
      runs = put.runs
      this.loaded ||= runs
      this.notice = runs ? '' : `This text has ${put.summary}, so it cannot run. Mend it, and it runs.`
      if (!runs) return
      this.#until = null
      this.#took(put, text)
      if (!this.rungs.length) this.#watchVariables()
      this.at = null
      this.why = null
      this.#rest()
    })
    return runs
  }

  /** Plays a scenario from the beginning; stops where the hand-in first went wrong. */
  play(file: string, text: string, r: Rehearsal) {
    this.#forget()
    return this.#inTurn(() => this.#rehearse(file, text, r))
  }

  async #rehearse(file: string, text: string, r: Rehearsal) {
    this.#round++
    this.#text = text
    this.notice = ''
    await this.#try(async () => {
      await this.draw(file, text)
      const put = await this.core.play({ file, text }, r.evidence.inputs, r.evidence.expected, r.drawn)
      this.loaded ||= put.runs
      this.notice = put.runs ? '' : `This text has ${put.summary}, so it cannot run. Mend it, and play it again.`
      if (!put.runs) return
      this.#took(put, text)
      this.why = null
      this.#until = r.until === undefined ? r.evidence.inputs.scans : r.until + 1
      this.#because = r.until === undefined ? 'the scenario ends' : 'here the hand-in first differed'
      await this.zoom(1000)
      await this.#advance(1)
      this.run()
    })
  }

  /** What is being written, which the bench takes over a moment after the last key, or before it goes on. */
  #coming: { file: string; text: string } | null = null
  #takeOver: ReturnType<typeof setTimeout> | undefined

  follow(file: string, text: string) {
    this.#coming = { file, text }
    clearTimeout(this.#takeOver)
    this.#takeOver = setTimeout(() => void this.#catchUp(), 400)
  }

  #forget() {
    clearTimeout(this.#takeOver)
    this.#coming = null
  }

  async #catchUp() {
    const coming = this.#coming
    this.#forget()
    if (coming) await this.replace(coming.file, coming.text)
  }

  /** Goes on with a changed text; one with errors leaves the old one running. */
  async replace(file: string, text: string) {
    if (text === this.#text) return
    if (!this.loaded || !this.#worked) return this.#afresh(file, text)
    this.#text = text
    const round = this.#round
    await this.#try(async () => {
      const put = await this.core.replace({ file, text })
      if (round !== this.#round) return // begun anew meanwhile
      this.notice = put.runs ? '' : `The text has ${put.summary}; the program before it goes on running.`
      if (!put.runs) return
      this.#took(put, text)
      this.at = null
      this.why = null
      await this.draw(file, text)
      if (round === this.#round) await this.#advance(1)
    })
  }

  #took(put: Put, text: string) {
    this.names = put.names
    this.text = text
    this.instances = put.instances
    for (const [block, list] of Object.entries(put.instances))
      if (!list.includes(this.chosen[block])) this.chosen[block] = list[0]
  }

  async #advance(scans: number) {
    this.at = null
    this.stages = null
    const asked = ++this.#asked
    const [view] = await Promise.all([this.core.run(scans, this.#shown()), this.partner?.advance(scans)])
    this.view = view
    this.#answered = asked
    this.#let()
    if (this.view.fault) this.pause()
    await this.#strip()
  }

  /** Runs scans as the other program does. */
  advance(scans: number) {
    return this.loaded ? this.#advance(scans) : Promise.resolve()
  }

  /** Puts a second program beside this one; both begin anew on the same inputs. */
  async compare(partner: Bench | null, file = '', text = '') {
    this.pause()
    if (partner) {
      partner.watch = this.watch
      partner.span = this.span
      if (!(await partner.#begin(file, text))) return partner.notice || partner.problem
    }
    this.partner = partner
    await this.start(this.#file, this.#text)
    return ''
  }

  /** The first scan of the window in which a watched value differs between the two programs; -1 is none. */
  get differs(): number {
    const other = new Map((this.partner?.lanes ?? []).map((l) => [l.name, l]))
    let first = -1
    for (const l of this.lanes) {
      const o = other.get(l.name)
      if (!o) continue
      for (const [scan] of [...l.segments, ...o.segments])
        // A slope that differs shows in the scan after.
        for (const n of [scan, scan + 1]) if (laneAt(l, n) !== laneAt(o, n) && (first < 0 || n < first)) first = n
    }
    return first
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
    void this.partner?.zoom(span)
    await this.#try(() => this.#strip())
  }

  /** Shows so many scans, or a few more. */
  zoomTo(scans: number) {
    return this.zoom([50, 200, 400, 1000].find((span) => span >= scans) ?? 6000)
  }

  async scans(n: number) {
    this.pause()
    await this.#beginning
    await this.#catchUp()
    this.#worked = true
    return this.#try(() => this.#advance(n))
  }

  run() {
    if (this.#beginning) return void this.#beginning.then(() => this.run())
    if (this.#coming) return void this.#catchUp().then(() => this.run())
    if (this.running || !this.loaded) return
    this.running = this.#worked = true
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
        this.notice = `Stopped at scan ${this.view?.scan}: ${this.#because}. Run goes on.`
        this.pause()
        return
      }
      this.#due -= scans
      this.#busy = true
      void this.#try(() => this.#advance(scans)).finally(() => (this.#busy = false))
    }
    this.#frame = requestAnimationFrame((later) => this.#tick(later))
  }

  end() {
    this.pause()
    this.#forget()
    this.partner?.core.end()
  }

  pause() {
    this.running = false
    cancelAnimationFrame(this.#frame)
  }

  /** The device of an on/off input, which a hand can work; undefined for any other name. */
  deviceOf(name: string): Point | undefined {
    return this.exercise.inputs.find((p) => p.type === 'BOOL' && p.name.toLowerCase() === name.toLowerCase())
  }

  /** A hand on an on/off device: a button is down while it is held, anything else changes with each press. */
  hand(p: Point, down: boolean): void {
    if (this.#beginning) return void this.#beginning.then(() => this.hand(p, down))
    if (this.devices[p.device]?.picture !== 'button') {
      if (down) void this.device(p.name, { state: this.deviceState(p.name) ? 0 : 1 })
    } else if (down) {
      this.#held.set(p.name, this.#asked)
      if (!this.states[p.name]) void this.device(p.name, { state: 1 })
    } else if (this.#answered <= (this.#held.get(p.name) ?? 0)) this.#letGo.add(p.name)
    else if (this.states[p.name]) void this.device(p.name, { state: 0 })
  }

  /** How often the core was asked for scans, and the last of these that it has answered. */
  #asked = 0
  #answered = 0
  /** The buttons pressed by hand, with what had been asked for by then: only what is asked for later sees them. */
  #held = new Map<string, number>()
  /** Those let go before any scan has seen them pressed. */
  #letGo = new Set<string>()

  /** However short a press is, one scan sees it. */
  #let() {
    for (const name of this.#letGo) {
      if (this.#answered <= this.#held.get(name)!) continue
      this.#letGo.delete(name)
      void this.device(name, { state: 0 })
    }
  }

  /** Works a device; while paused the next scan sees it. */
  async device(name: string, change: { state?: number; broken?: boolean }) {
    if (this.#beginning) await this.#beginning
    this.touched = this.#worked = true
    if (this.at !== null) await this.look(this.view!.scans - 1) // the hand is on what is, not on what was
    void this.partner?.device(name, change)
    if (change.state !== undefined) this.states[name] = change.state
    if (change.broken !== undefined) this.broken[name] = change.broken
    if (this.loaded) await this.#try(async () => void (await this.core.device(name, change)))
  }

  do(verb: 'force' | 'unforce' | 'write', name: string, value = '') {
    return this.#toBoth((core) => core.do(verb, name, value))
  }

  /** Takes the supply away and gives it back: what is not retained begins anew in the next scan. */
  supply() {
    return this.#toBoth((core) => core.do('restart', ''))
  }

  release() {
    return this.#toBoth((core) => core.release())
  }

  /** Does something to this program and to the one beside it, and shows the scan that sees it. */
  async #toBoth(work: (core: Core) => Promise<unknown>) {
    await this.#beginning
    this.#worked = true
    await this.#try(async () => {
      await work(this.core)
      if (this.partner) await work(this.partner.core).catch(() => {}) // it may lack the name
      if (!this.running) await this.#advance(1)
    })
  }

  /** Looks at a scan that is over. While a program begins those that there were are no more. */
  async look(scan: number) {
    if (!this.view || this.#beginning) return
    this.pause()
    const first = this.view.first
    const wanted = Math.min(Math.max(scan, first), this.view.scans - 1)
    await this.#try(async () => {
      this.view = await this.core.look(wanted, this.#shown())
      this.at = wanted === this.view.scans - 1 ? null : wanted
      if (this.stages) {
        this.stages = await this.core.walk(wanted)
        this.step = 0
      }
      await this.partner?.look(wanted)
    })
  }

  /** Forgets what came after the scan that is looked at, and goes on from there. */
  async back() {
    const at = this.at
    if (at === null) return
    await this.#try(async () => {
      this.view = await this.core.back(at, this.#shown())
      if (this.partner) this.partner.view = await this.partner.core.back(at, this.partner.#shown())
      for (const [name, state] of Object.entries(this.view.states)) this.states[name] = state
      for (const [name, broken] of Object.entries(this.view.broken)) this.broken[name] = broken
      this.at = null
      this.why = null
      await this.#strip()
      await this.partner?.zoom(this.span)
    })
  }

  async nextChange(name: string, back: boolean) {
    if (!this.view) return
    await this.#try(async () => {
      const { scan } = await this.core.next(name, this.view!.scan, back)
      if (scan >= 0) await this.look(scan)
    })
  }

  addWatch = (name: string) => this.watchAll(name ? [name] : [])

  /** Watches several names at once; a timer or counter by what it measures and whether it is done. */
  async watchAll(names: string[]) {
    const fresh = [...new Set(names)].filter((n) => !this.watch.includes(n) && (!this.view || this.names.includes(n)))
    if (!fresh.length) return
    this.watch = [...this.watch, ...fresh]
    if (this.partner) this.partner.watch = this.watch
    if (this.view) await this.look(this.view.scan)
    await this.#try(() => this.#strip())
  }

  async removeWatch(name: string) {
    this.watch = this.watch.filter((n) => n !== name)
    await this.#try(() => this.#strip())
  }

  /** Walks through the scan that is looked at, from its first step. */
  async walk() {
    this.pause()
    await this.#beginning
    await this.#try(async () => {
      this.stages = await this.core.walk(this.view!.scan)
      this.step = 0
    })
  }

  /** To another step; beyond the last comes the scan's first step again, if there is one. */
  stepTo(n: number) {
    this.step = Math.min(Math.max(n, 0), (this.stages?.length ?? 1) - 1)
  }

  leave() {
    this.stages = null
  }

  async ask(name: string) {
    await this.#beginning
    await this.#try(async () => void (this.why = await this.core.why(name, this.view!.scan)))
  }
}
