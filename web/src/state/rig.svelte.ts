import { untrack } from 'svelte'
import { Bench } from './bench.svelte'
import type { Workshop } from './workshop.svelte'
import { solutionIn } from './written.svelte'

/** What runs where there is no solution yet: the devices can be worked all the same. */
const idle = { file: 'panel.st', text: 'PROGRAM panel\nEND_PROGRAM\n' }

/** A bench that follows the workshop's panel and solution: another panel is another bench. */
export class Rig {
  readonly workshop: Workshop
  bench = $state.raw<Bench | null>(null)
  /** The solution runs on it. */
  runs = $state(false)
  #panel = ''
  #text = ''

  constructor(workshop: Workshop) {
    this.workshop = workshop
  }

  /** To be called in an effect: it reads what it follows. */
  follow() {
    const w = this.workshop
    const e = w.exercise
    const { texts } = w.files
    const file = solutionIn(texts)
    const text = texts[file] ?? ''
    if (!e) return
    const panel = JSON.stringify([e.period, e.inputs, e.outputs, e.picture])
    untrack(() => {
      if (panel === this.#panel && text === this.#text) return
      const wired = panel !== this.#panel
      this.#panel = panel
      this.#text = text
      void this.#begin(wired, file, text)
    })
  }

  async #begin(wired: boolean, file: string, text: string) {
    const e = this.workshop.exercise!
    if (wired || !this.bench) {
      this.bench?.end()
      const opened = this.workshop.open()
      this.bench = new Bench(e, this.workshop.core, opened)
      await opened.catch(() => undefined) // the bench tells
    }
    const bench = this.bench
    const right = text
      ? await this.workshop.core.check({ file, text }).then(
          (c) => !c.diagnostics.some((d) => d.severity === 'error'),
          () => false,
        )
      : false
    if (bench !== this.bench || text !== this.#text) return
    this.runs = right
    const { running } = bench
    const put = right ? { file, text } : idle
    await bench.start(put.file, put.text)
    if (running) bench.run()
  }

  /** Begins at scan 0, every device at rest. */
  async afresh() {
    const bench = this.bench
    if (!bench) return
    bench.pause()
    const { texts } = this.workshop.files
    const file = solutionIn(texts)
    const put = this.runs && file ? { file, text: texts[file] } : idle
    await bench.start(put.file, put.text)
  }

  end() {
    this.bench?.end()
  }
}
