import type { CheckForm, Edge, Judgement, Outline, StepForm } from '../core/calls'
import { columnNamed } from '../trace'
import type { Trace, Column } from '../api'
import { ScanWindow } from './window.svelte'
import type { Workshop } from './workshop.svelte'

type Scene = Judgement['scenes'][number]

/** A stretch of scans, and the signal whose lane it was drawn on: '' is all of them. */
export interface Stretch {
  signal: string
  from: number
  to: number
}

/** A line of the diagram. */
export interface Lane {
  label: string
  /** What the line is: an input as scripted, what the solution does, what is expected in its place, what it did before. */
  kind: 'input' | 'does' | 'expected' | 'was'
  column: Column
  /** Scans that are compared nowhere. */
  graded: boolean
}

const step = (verb: string, more: Partial<StepForm> = {}): StepForm => ({
  at: '',
  verb,
  object: '',
  values: [],
  for: '',
  every: '',
  times: '',
  ...more,
})

/** One scenario's script and what is expected of it, as they are drawn and changed. */
export class Script {
  readonly workshop: Workshop
  readonly number: number
  view = $state.raw(new ScanWindow(1))
  stretch = $state<Stretch | null>(null)
  /** What was cut or copied lies between these scans. */
  copied = $state<{ from: number; to: number } | null>(null)

  constructor(workshop: Workshop, number: number) {
    this.workshop = workshop
    this.number = number
  }

  get at() {
    return 'scenarios/' + this.number
  }

  form = $derived.by(() => this.workshop.outline?.form.scenarios[this.number])
  scripted = $derived.by((): Outline['scripts'][number] | undefined =>
    this.workshop.outline?.scripts.find((s) => s.scenario === this.number),
  )
  scene = $derived.by((): Scene | undefined => this.workshop.judgement?.scenes.find((s) => s.scenario === this.number))

  get inputs(): Trace | undefined {
    return this.scripted?.inputs
  }

  get scans() {
    return this.inputs?.scans ?? 0
  }

  /** Looks at the whole of it where its length has changed. */
  fit() {
    if (this.scans && this.view.scans !== this.scans) this.view = new ScanWindow(this.scans)
  }

  /** The inputs, and below them what the solution does, with what it did, or should do, where that is something else. */
  lanes = $derived.by((): Lane[] => {
    const inputs = (this.inputs?.signals ?? []).map((column): Lane => ({
      label: column.name,
      kind: 'input',
      column,
      graded: false,
    }))
    const s = this.scene
    if (!s) return [...inputs, ...this.#waiting()]
    const graded = (name: string) =>
      !!this.workshop.judgement?.signals.some((x) => x.graded >= 0 && x.name.toLowerCase() === name.toLowerCase())
    const out: Lane[] = []
    for (const column of s.does.signals) {
      out.push({ label: column.name, kind: 'does', column, graded: graded(column.name) })
      if (!s.moved.some((m) => m.signal === column.name)) continue
      const was = columnNamed(s.was, column.name)
      if (was)
        out.push({ label: column.name, kind: this.form?.expect.table ? 'expected' : 'was', column: was, graded: true })
    }
    return [...inputs, ...out]
  })

  /** Lanes without a line, but for what a table expects: they keep the place of those that come as soon as the solution has been run. */
  #waiting(): Lane[] {
    const w = this.workshop
    const names = w.judgement?.scenes[0]?.does.signals ?? w.exercise?.outputs ?? []
    return names.flatMap(({ name, type }): Lane[] => {
      const empty: Lane = { label: name, kind: 'does', column: { name, type, segments: [] } as Column, graded: false }
      const table = this.scripted && columnNamed(this.scripted.table, name)
      return table ? [empty, { ...empty, kind: 'expected', column: table }] : [empty]
    })
  }

  /** The edges that can be taken hold of on an input's lane. */
  edges(input: string): Edge[] {
    return this.scripted?.edges.filter((e) => e.input === input) ?? []
  }

  /** How an edge reads: what its step does, and when. */
  says(e: Edge): string {
    const s = this.form?.steps[e.step]
    if (!s) return ''
    const what = s.values.length
      ? `${s.verb} ${s.values.map((v) => `${v.name} to ${v.value}`).join(', ')}`
      : `${s.verb} ${s.object}`
    return e.moves === 'for' ? `${what}: lets go` : what
  }

  isInput(name: string) {
    return !!this.inputs?.signals.some((c) => c.name === name)
  }

  point(name: string) {
    return this.workshop.exercise?.inputs.find((p) => p.name === name)
  }

  // What is done to the script.

  moveEdge = (edge: Edge, to: number) =>
    this.workshop.change('moveEdge', { scenario: this.number, edge, to: Math.max(0, to) })
  remove = (n: number) => this.workshop.change('edit', { edits: [{ do: 'remove', at: `${this.at}/steps/${n}` }] })

  add(scan: number, what: StepForm) {
    return this.workshop.change('addStep', { scenario: this.number, scan, step: what })
  }

  /** Works a device for a stretch of scans: a button is pressed, a switch is on, a number has a value. */
  async work(name: string, from: number, to: number, value = '') {
    const p = this.point(name)
    if (!p) return
    if (p.type !== 'BOOL') return this.add(from, step('set', { values: [{ name, value: value || '0' }] }))
    const scans = to - from
    const held = scans === 1 ? '1 scan' : scans + ' scans'
    if (p.device === 'button') return this.add(from, step('tap', { object: name, for: this.#length(scans) ?? held }))
    const on =
      p.device === 'switch' ? step('switch_on', { object: name }) : step('set', { values: [{ name, value: 'true' }] })
    const off =
      p.device === 'switch' ? step('switch_off', { object: name }) : step('set', { values: [{ name, value: 'false' }] })
    if (await this.add(from, on)) await this.add(to, off)
  }

  /** A length in time where it is a whole number of milliseconds. */
  #length(scans: number): string | null {
    const ns = scans * (this.inputs?.period ?? 0)
    return scans > 1 && ns % 1e6 === 0 ? (ns < 1e9 ? ns / 1e6 + 'ms' : ns / 1e9 + 's') : null
  }

  async breakWire(name: string, from: number, to: number) {
    if (!(await this.add(from, step('break_wire', { object: name })))) return
    if (to < this.scans) await this.add(to, step('mend_wire', { object: name }))
  }

  /** One tap that is repeated through a stretch. */
  repeat(name: string, from: number, to: number, times: number) {
    const every = Math.max(2, Math.floor((to - from) / Math.max(times, 1)))
    const held = Math.max(1, Math.floor(every / 2))
    const words = (n: number) => this.#length(n) ?? `${n} ${n === 1 ? 'scan' : 'scans'}`
    return this.add(from, step('tap', { object: name, for: words(held), every: words(every), times: String(times) }))
  }

  ramp = (input: string, from: number, to: number, least: number, greatest: number, every: number) =>
    this.workshop.change('ramp', { scenario: this.number, input, from, to, every, least, greatest })

  reshape(what: 'shift' | 'stretch' | 'cut' | 'copy', by: number, s = this.stretch) {
    if (!s) return Promise.resolve(false)
    return this.workshop.change('reshape', { scenario: this.number, do: what, from: s.from, to: s.to, by })
  }

  copy() {
    this.copied = this.stretch && { from: this.stretch.from, to: this.stretch.to }
  }

  async cut() {
    if (await this.reshape('cut', 0)) this.stretch = null
  }

  /** Puts a second time what was copied, beginning where the stretch does. */
  async paste() {
    if (!this.copied || !this.stretch) return
    await this.reshape('copy', this.stretch.from, { signal: '', ...this.copied })
  }

  // What is expected.

  check = (what: Partial<CheckForm>, s = this.stretch!) =>
    this.workshop.change('addCheck', {
      scenario: this.number,
      from: s.from,
      to: s.to,
      check: { signal: s.signal, from: '', to: '', is: '', rises: '', falls: '', ...what },
    })
  ignore = (s = this.stretch!) => this.workshop.change('ignore', { scenario: this.number, from: s.from, to: s.to })
  /** What is expected is what the solution did before its change; or what it does now. */
  pinBefore = () => this.workshop.change('pin', { scenario: this.number, solution: this.workshop.settled })
  pin = () => this.workshop.change('pin', { scenario: this.number, solution: '' })
  unpin = () => this.workshop.change('unpin', { scenario: this.number })
  draw = (value: string, s = this.stretch!) =>
    this.workshop.change('drawExpected', { scenario: this.number, signal: s.signal, value, from: s.from, to: s.to })
}
