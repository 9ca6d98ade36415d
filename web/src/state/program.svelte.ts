import type { Exercise } from '../api'
import type { Workshop } from './workshop.svelte'
import { languageOf, programming, Written, type Language } from './written.svelte'

/** A program of the folder being written: a solution, a starter, a known mistake. */
export class FolderProgram extends Written {
  readonly workshop: Workshop
  readonly path: string

  constructor(workshop: Workshop, path: string, text = workshop.files.texts[path] ?? '') {
    const language = languageOf(path)
    super({ ...workshop.exercise!, languages: [language] } as Exercise)
    this.workshop = workshop
    this.path = path
    this.language = language
    this.begin(text)
    this.core = workshop.core
  }

  get file() {
    return this.path
  }

  get begins(): string | null {
    return null
  }

  protected keep(text: string) {
    this.workshop.write(this.path, text, true)
  }

  choose(_: Language) {
    // A file has one language.
  }

  /** Takes over what the file has become elsewhere. */
  follow() {
    const text = this.workshop.files.texts[this.path] ?? ''
    if (text !== this.text) this.begin(text)
  }

  others() {
    return Object.entries(this.workshop.files.texts)
      .filter(([name]) => programming.includes(languageOf(name)) && name !== this.path)
      .map(([file, text]) => ({ label: file, file, text }))
  }

  end() {
    this.leave()
  }
}

/** A program written to try the exercise, as a learner would: it is no file of the folder, and this browser keeps it. */
export class OwnTry extends FolderProgram {
  static place = (w: Workshop, language: Language) => `celandine.${w.person}.try.${w.owner}.${w.name}.${language}`

  constructor(workshop: Workshop, language: Language) {
    const begins = workshop.files.texts['starter.' + language] ?? ''
    super(workshop, 'mine.' + language, localStorage.getItem(OwnTry.place(workshop, language)) ?? begins)
  }

  get begins() {
    return this.workshop.files.texts['starter.' + this.language] ?? ''
  }

  protected keep(text: string) {
    localStorage.setItem(OwnTry.place(this.workshop, this.language), text)
  }

  follow() {
    // Nothing else writes it.
  }
}
