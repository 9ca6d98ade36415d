import type { Exercise, Graded, Scenario, Trace } from '../api'
import { readDrawn, written, type Drawn, type Line } from '../drawn'
import type { Draft } from './draft.svelte'

/** What somebody predicts of an exercise, scenario by scenario, as the text of their draft says it. */
export class Sheet {
  readonly exercise: Exercise
  #drawn = $derived.by(() => readDrawn(this.draft.text))

  constructor(private readonly draft: Pick<Draft, 'exercise' | 'text' | 'write'>) {
    this.exercise = draft.exercise
  }

  get asked(): Graded[] {
    return this.exercise.graded
  }

  /** What is said of a scenario; nothing yet is a drawing in which nothing happens. */
  of(s: Scenario): Drawn {
    return this.#drawn[s.name.trim()] ?? { lines: {} }
  }

  /** Whether something is said of a scenario, all of it. */
  said(s: Scenario): boolean {
    const d = this.#drawn[s.name.trim()]
    return !!d && d.erratic !== ''
  }

  script(s: Scenario): Trace {
    return s.script as Trace
  }

  line(s: Scenario, signal: string, line: Line) {
    this.#put(s, { lines: { ...this.of(s).lines, [signal]: line } })
  }

  /** Says that nothing happens. */
  nothing(s: Scenario) {
    this.#put(s, { lines: {} })
  }

  /** Calls it erratic, for a reason that may still have to be chosen, or, without one, predictable again. */
  erratic(s: Scenario, reason: string | undefined) {
    this.#put(s, { lines: this.of(s).lines, ...(reason !== undefined && { erratic: reason }) })
  }

  /** The scenario in which a line of the text stands. */
  at(line: number): Scenario | undefined {
    const above = this.draft.text.split('\n').slice(0, line)
    const name = above
      .findLast((l) => l.startsWith('#'))
      ?.slice(1)
      .trim()
    return this.exercise.scenarios.find((s) => s.name.trim() === name)
  }

  #put(s: Scenario, d: Drawn) {
    const names = this.exercise.scenarios.map((one) => one.name.trim())
    const signals = this.asked.map((g) => g.signal)
    this.draft.write(written(names, signals, { ...this.#drawn, [s.name.trim()]: d }))
  }
}
