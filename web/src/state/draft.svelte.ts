import { api, follow, type Checked, type Exercise } from '../api'
import type { Core } from '../core/core'
import { History } from './history'

export type Language = 'ladder' | 'st'

/** The program being written for one exercise, and its way to a mark. */
export class Draft {
  language = $state<Language>('ladder')
  text = $state('')
  checked = $state<Checked | null>(null)
  /** What is going on, for the person: '' while nothing is. */
  progress = $state('')
  problem = $state('')
  graded = $state<number | null>(null)
  /** Counts the texts that were put in from outside the editor, which then begins anew. */
  opened = $state(0)
  readonly exercise: Exercise
  readonly person: string
  /** Looks at the text as it is written, once it is there. */
  #core = $state<Core | null>(null)
  /** What another tab has written to the same place, or null. */
  elsewhere = $state<string | null>(null)
  #key = ''
  #soon?: ReturnType<typeof setTimeout>
  #history = new History()

  constructor(exercise: Exercise, person: string) {
    this.exercise = exercise
    this.person = person
    const language = localStorage.getItem(this.#place('language'))
    window.addEventListener('storage', this.#notice)
    this.choose((exercise.languages.includes(language ?? '') ? language : exercise.languages[0]) as Language)
  }

  #notice = (event: StorageEvent) => {
    if (event.key === this.#place(this.language) && event.newValue !== null) this.elsewhere = event.newValue === this.text ? null : event.newValue
  }

  get core() {
    return this.#core
  }

  set core(core: Core | null) {
    this.#core = core
    void this.#glance()
  }

  /** Goes on with what the other tab has; or keeps what stands here. */
  settle(take: boolean) {
    const text = take ? this.elsewhere! : this.text
    this.elsewhere = null
    localStorage.setItem(this.#place(this.language), text)
    if (take) this.choose(this.language)
  }

  end() {
    window.removeEventListener('storage', this.#notice)
    clearTimeout(this.#soon)
  }

  #place(what: string) {
    return `celandine.${this.person}.${this.exercise.name}.${what}`
  }

  /** One's other texts for this exercise. */
  others(): { label: string; file: string; text: string }[] {
    const list = []
    for (const language of this.exercise.languages) {
      const kept = language === this.language ? null : localStorage.getItem(this.#place(language))
      if (kept) list.push({ label: 'the other language, as it is now', file: 'mine.' + language, text: kept })
      const starter = this.exercise.starters[language]
      if (starter) list.push({ label: `the starter, ${language === 'st' ? 'text' : 'ladder'}`, file: 'starter.' + language, text: starter })
    }
    return list
  }

  get file() {
    return 'mine.' + this.language
  }

  choose(language: Language) {
    this.language = language
    localStorage.setItem(this.#place('language'), language)
    this.text = localStorage.getItem(this.#place(language)) ?? this.exercise.starters[language] ?? ''
    this.checked = null
    this.#history = new History()
    this.opened++
    clearTimeout(this.#soon)
    this.#soon = setTimeout(() => void this.#glance(), 0)
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
    this.#key = ''
    localStorage.setItem(this.#place(this.language), text)
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

  /** Begins again with the starter. */
  startOver() {
    localStorage.removeItem(this.#place(this.language))
    this.choose(this.language)
    this.#key = ''
  }

  async check() {
    await this.#busy('Checking …', async () => {
      this.checked = await api.check(this.exercise.name, this.file, this.text)
    })
  }

  /** Hands in; a second try after a lost answer is the same hand-in. */
  async handIn() {
    await this.#busy('Checking …', async () => {
      this.checked = await api.check(this.exercise.name, this.file, this.text)
      if (this.checked.diagnostics.some((d) => d.severity === 'error')) {
        throw new Error('There are errors. Mend them first; the list below says where. Nothing was handed in.')
      }
      this.progress = 'Handing in …'
      this.#key ||= crypto.randomUUID()
      const handin = await api.handIn(this.exercise.name, this.file, this.text, this.#key)
      this.#key = ''
      this.progress = 'Handed in. Running the scenarios …'
      await new Promise<void>((done) => {
        follow(handin.id, (p) => {
          if (p.state === 'graded') done()
        })
      })
      this.graded = handin.id
    })
  }

  async #busy(what: string, work: () => Promise<void>) {
    if (this.progress) return
    this.progress = what
    this.problem = ''
    try {
      await work()
    } catch (error) {
      this.problem = (error as Error).message
    }
    this.progress = ''
  }
}
