import type { Fix, Mark } from '../core/calls'
import type { Checked, Exercise } from '../api'
import type { Core } from '../core/core'
import { History } from './history'

export type Language = 'ladder' | 'fbd' | 'st' | 'trace'

/** The languages that a program may be written in, each as its files end. */
export const programming: Language[] = ['ladder', 'fbd', 'st']

/** How a language is called. */
export const words: Record<Language, string> = {
  ladder: 'Ladder',
  fbd: 'Blocks',
  st: 'Structured text',
  trace: 'Timing diagram',
}

/** How a language is called within a sentence. */
const inWords: Record<Language, string> = {
  ladder: 'ladder',
  fbd: 'block diagrams',
  st: 'structured text',
  trace: 'a timing diagram',
}

/** What a text is written in, by its body's first word. */
export const writtenIn = (text: string): Language =>
  /\bLADDER\b/i.test(text) ? 'ladder' : /\bFBD\b/i.test(text) ? 'fbd' : 'st'

/** The folder's file with the solution, in the first language that has one; '' where there is none. */
export const solutionIn = (texts: Record<string, string>) =>
  programming.map((l) => 'solution.' + l).find((f) => texts[f]) ?? ''

/** The language of a file, by its ending. */
export const languageOf = (file: string) => file.slice(file.lastIndexOf('.') + 1) as Language

/**
 * A program being written for an exercise: its text, every change of it, and what the core says of it. Where the text is
 * kept, and where it comes from, is the business of those who extend it.
 */
export abstract class Written {
  language = $state<Language>('ladder')
  text = $state('')
  /** Where in the rungs, and the ways out, are known of what the core has checked. */
  checked = $state<(Checked & { marks?: Mark[]; fixes?: Fix[][] }) | null>(null)
  /** What is going on, for the person: '' while nothing is. */
  progress = $state('')
  problem = $state('')
  /** Counts the texts that were put in from outside the editor, which then begins anew. */
  opened = $state(0)
  readonly exercise: Exercise
  /** Looks at the text as it is written, once it is there. */
  #core = $state<Core | null>(null)
  #soon?: ReturnType<typeof setTimeout>
  #history = new History()

  constructor(exercise: Exercise) {
    this.exercise = exercise
  }

  /** Keeps a text that was written. */
  protected abstract keep(text: string): void
  /** Goes to the text in another language. */
  abstract choose(language: Language): void
  abstract get file(): string
  /** What it begins anew with; null where it does not. */
  abstract get begins(): string | null
  /** Other texts for the exercise, to compare with. */
  abstract others(): { label: string; file: string; text: string }[]

  get core() {
    return this.#core
  }

  set core(core: Core | null) {
    this.#core = core
    void this.#glance()
  }

  /** Puts another text in, of which nothing is known yet. */
  protected begin(text: string) {
    this.text = text
    this.checked = null
    this.#history = new History()
    this.opened++
    clearTimeout(this.#soon)
    this.#soon = setTimeout(() => void this.#glance(), 0)
  }

  protected leave() {
    clearTimeout(this.#soon)
  }

  /** Takes a new text over. typed is set for letters from the keyboard, of which several are one change. */
  write(text: string, typed = false) {
    if (text === this.text) return
    this.#history.note(this.text, text, typed ? performance.now() : 0)
    this.#put(text)
  }

  undo() {
    return this.#restore(this.#history.undo(this.text))
  }

  redo() {
    return this.#restore(this.#history.redo(this.text))
  }

  /** Returns where the text changed, or -1. */
  #restore(to: { text: string; at: number } | null) {
    if (!to) return -1
    this.#put(to.text)
    return to.at
  }

  #put(text: string) {
    this.text = text
    this.checked = null
    this.keep(text)
    clearTimeout(this.#soon)
    this.#soon = setTimeout(() => void this.#glance(), 250)
  }

  /** Checks in the browser, a moment after the last key. */
  async #glance() {
    const text = this.text
    const checked = await this.#core?.check({ file: this.file, text }).catch(() => undefined)
    if (checked && text === this.text && !this.progress) this.checked = checked
  }

  /** Writes the text as the printer has it. */
  async format() {
    try {
      const { text } = await this.#core!.format({ file: this.file, text: this.text })
      this.write(text)
    } catch (error) {
      this.problem = (error as Error).message
    }
  }

  /**
   * Takes a program over that was opened, in its own language where that is allowed, else said in this one. Returns what there is to
   * say of it; undo brings back what was written.
   */
  async open(text: string): Promise<string> {
    const language = writtenIn(text)
    if (language !== this.language && this.exercise.languages.includes(language)) this.choose(language)
    if (language === this.language) {
      this.write(text)
      return ''
    }
    const same = await this.#core!.convert({ file: 'opened.' + language, text }, this.language)
    this.write(same.text)
    return [`It was in ${inWords[language]}, and is in ${inWords[this.language]} here.`, ...same.told].join(' ')
  }

  /** Begins again; undo brings back what was written. */
  startOver() {
    if (this.begins !== null) this.write(this.begins)
  }
}
