import type { Exercise, Graded, Scenario, Trace } from '../api'
import { apart, asTrace, readDrawn, valueOf, written, type Drawn, type Line } from '../drawn'
import type { Bench } from './bench.svelte'

/** What came of a practice: where the program first did something else than was drawn. */
export interface Verdict {
  scenario: string
  apart: { signal: string; scan: number; does: number; drawn: number; bool: boolean } | null
}

/**
 * What somebody says that their own program will do in the scenarios that may be predicted, before it runs. It is practice: it is kept in
 * the browser, and no mark comes of it.
 */
export class Foretold {
  readonly scenarios: Scenario[]
  readonly asked: Graded[]
  text = $state('')
  /** It was put off, or played: the bench does not ask again. */
  over = $state(false)
  verdict = $state.raw<Verdict | null>(null)
  #playing: Scenario | null = null
  #drawn = $derived.by(() => readDrawn(this.text))

  constructor(
    exercise: Exercise,
    private readonly bench: Bench,
    private readonly place: string,
  ) {
    this.scenarios = exercise.scenarios.filter((s) => s.practice)
    this.asked = exercise.graded.filter((g) => g.type && !g.block)
    this.text = localStorage.getItem(place) ?? ''
    this.over = localStorage.getItem(place + '.over') !== null
  }

  /** Whether there is anything to be asked. */
  get any() {
    return this.scenarios.length > 0 && this.asked.length > 0
  }

  of(s: Scenario): Drawn {
    return this.#drawn[s.name.trim()] ?? { lines: {} }
  }

  line(s: Scenario, signal: string, line: Line) {
    const all = { ...this.#drawn, [s.name.trim()]: { lines: { ...this.of(s).lines, [signal]: line } } }
    const names = this.scenarios.map((one) => one.name.trim())
    this.text = written(names, this.signals(), all)
    localStorage.setItem(this.place, this.text)
  }

  private signals = () => this.asked.map((g) => g.signal)

  end() {
    this.over = true
    localStorage.setItem(this.place + '.over', '1')
  }

  /** Runs the program through a scenario, with what was drawn beside it. */
  async play(s: Scenario, file: string, text: string) {
    const script = s.script as Trace
    const drawn = asTrace(
      script,
      this.asked.map((g) => ({ signal: g.signal, type: g.type! })),
      this.of(s),
    )
    const evidence = { scenario: s.name, inputs: script, expected: drawn, actual: { ...script, signals: [] } }
    this.end()
    this.verdict = null
    this.#playing = s
    await this.bench.watchAll(this.signals())
    await this.bench.play(file, text, { exercise: this.bench.exercise.name, evidence, drawn: true })
  }

  /** Looks whether the run is over, and what came of it. */
  async look() {
    const s = this.#playing
    const script = s?.script as Trace | undefined
    if (!s || !script || (this.bench.view?.scans ?? 0) < script.scans) return
    this.#playing = null
    const lanes = await this.bench.core.trace(this.signals(), 0, script.scans)
    let first: Verdict['apart'] = null
    for (const g of this.asked) {
      const lane = lanes.find((l) => l.name.toLowerCase() === g.signal.toLowerCase())
      if (!lane) continue // the program has nothing of the name, which is told elsewhere
      const does = lane.segments.map(([at, v]) => [at, v] as [number, number])
      const drawn = this.of(s).lines[g.signal] ?? [[0, 0]]
      const scan = apart(drawn, does, g.slack)
      if (scan >= 0 && (!first || scan < first.scan))
        first = {
          signal: g.signal,
          scan,
          does: valueOf(does, scan),
          drawn: valueOf(drawn, scan),
          bool: g.type === 'BOOL',
        }
    }
    this.verdict = { scenario: s.name, apart: first }
  }
}
