import type { CheckForm, Edge, Judgement, Outline, StepForm, Timed } from '../core/calls'
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

/** One scenario's script and what is expected of it, as they are drawn and changed. */
export class Script {
  readonly workshop: Workshop
  readonly number: number
  view = $state.raw(new ScanWindow(1))
  stretch = $state<Stretch | null>(null)
  /** The steps that were cut or copied. */
  copied = $state.raw<Timed[] | null>(null)
  #nudged: { key: string; to: number } | null = null

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
  add = (scan: number, step: StepForm) => this.workshop.change('addStep', { scenario: this.number, scan, step })

  /** Moves an edge by scans. Keys come faster than the diagram follows: the next goes on from where the last one led. */
  async nudge(edge: Edge, by: number) {
    const key = `${edge.step} ${edge.moves} ${edge.turn}`
    const to = Math.max(0, (this.#nudged?.key === key ? this.#nudged.to : edge.scan) + by)
    const nudged = (this.#nudged = { key, to })
    await this.moveEdge(edge, to)
    await this.workshop.look()
    if (this.#nudged === nudged) this.#nudged = null
  }

  /** Works an input's device for the stretch: a button is pressed, a switch is on, a number has a value. */
  work = (s: Stretch, value = '') => this.workshop.change('work', { ...this.#of(s), value })
  repeat = (s: Stretch, times: number) => this.workshop.change('repeat', { ...this.#of(s), times })
  breakWire = (s: Stretch) => this.workshop.change('breakWire', this.#of(s))
  ramp = (s: Stretch, least: number, greatest: number, every: number) =>
    this.workshop.change('ramp', { ...this.#of(s), least, greatest, every })
  reshape = (s: Stretch, what: 'shift' | 'stretch' | 'cut', by = 0) =>
    this.workshop.change('reshape', { scenario: this.number, from: s.from, to: s.to, do: what, by })

  #of(s: Stretch) {
    return { scenario: this.number, input: s.signal, from: s.from, to: s.to }
  }

  /** Keeps the steps of the stretch, to be put somewhere else. */
  async copy(s: Stretch) {
    const { files, core } = { files: this.workshop.named, core: this.workshop.core }
    this.copied = await core.ask('taken', { files, scenario: this.number, from: s.from, to: s.to })
  }

  async cut(s: Stretch) {
    await this.copy(s)
    return this.reshape(s, 'cut')
  }

  /** Puts what was copied or cut, beginning where the stretch does. */
  paste = (s: Stretch) => this.workshop.change('paste', { scenario: this.number, steps: this.copied ?? [], at: s.from })

  // What is expected.

  check = (what: Partial<CheckForm>, s: Stretch) =>
    this.workshop.change('addCheck', {
      scenario: this.number,
      from: s.from,
      to: s.to,
      check: { signal: s.signal, from: '', to: '', is: '', rises: '', falls: '', ...what },
    })
  ignore = (s: Stretch) => this.workshop.change('ignore', { scenario: this.number, from: s.from, to: s.to })
  /** What is expected is what the solution did before its change; or what it does now. */
  pinBefore = () => this.workshop.change('pin', { scenario: this.number, solution: this.workshop.settled })
  pin = () => this.workshop.change('pin', { scenario: this.number, solution: '' })
  unpin = () => this.workshop.change('unpin', { scenario: this.number })
  draw = (value: string, s: Stretch) =>
    this.workshop.change('drawExpected', { scenario: this.number, signal: s.signal, value, from: s.from, to: s.to })
}
