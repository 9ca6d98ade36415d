import type { Slipped, StrengthTable } from '../core/calls'
import type { Workshop } from './workshop.svelte'

/** How many programs with one mistake the scenarios catch: found out in turns, anew after each change of the exercise. */
export class Strength {
  tried = $state(0)
  mutants = $state(0)
  table = $state.raw<StrengthTable | null>(null)
  problem = $state('')
  /** The exercise is not what the table is about. */
  stale = $state(false)
  #turn = 0
  #w: Workshop

  constructor(w: Workshop) {
    this.#w = w
  }

  /** Finds it out; one that is under way ends. */
  async find() {
    const turn = ++this.#turn
    const { judge } = this.#w
    this.stale = this.table !== null
    this.problem = ''
    this.tried = this.mutants = 0
    try {
      let now = await judge.ask('strengthBegin', { files: this.#w.named })
      while (turn === this.#turn && !now.table) {
        ;[this.tried, this.mutants] = [now.tried, now.mutants]
        now = await judge.ask('strengthGo', {})
      }
      if (turn !== this.#turn) return
      this.table = now.table
      this.stale = false
      this.tried = this.mutants = now.mutants
    } catch (error) {
      if (turn === this.#turn) this.problem = (error as Error).message
    }
  }

  /** Puts the scenario that catches a mistake behind the others. */
  add(one: Slipped) {
    return this.#w.change('addScenario', { name: one.name, steps: one.steps, scans: one.scans })
  }

  end() {
    this.#turn++
  }
}
