import { api, follow, type Checked, type Exercise } from '../api'
import type { Core } from '../core/core'

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
  core = $state<Core | null>(null)
  /** What another tab has written to the same place, or null. */
  elsewhere = $state<string | null>(null)
  #key = ''
  #soon?: ReturnType<typeof setTimeout>

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

  get file() {
    return 'mine.' + this.language
  }

  choose(language: Language) {
    this.language = language
    localStorage.setItem(this.#place('language'), language)
    this.text = localStorage.getItem(this.#place(language)) ?? this.exercise.starters[language] ?? ''
    this.checked = null
    this.opened++
  }

  write(text: string) {
    if (text === this.text) return
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
    const checked = await this.core?.check({ file: this.file, text }).catch(() => undefined)
    if (checked && text === this.text && !this.progress) this.checked = checked
  }

  /** Writes the text as the printer has it. */
  async format() {
    try {
      const { text } = await this.core!.format({ file: this.file, text: this.text })
      this.write(text)
      this.opened++
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
