import { api, follow, Problem, type Exercise, type Draft as Saved } from '../api'
import { words, Written, type Language } from './written.svelte'

export { words, type Language } from './written.svelte'

/** How long after the last key a text goes to the service, and how long after a failure it is tried again, in ms. */
const soon = 1500
const again = 4000

/** What became of the text: 'service' has it, or only this browser, which will bring it there; or another is there. */
export type Kept = 'service' | 'browser' | 'waiting'

/**
 * The program being written for one exercise, and its way to a mark.
 * Each letter is kept in the browser at once, and in the service a moment later.
 */
export class Draft extends Written {
  graded = $state<number | null>(null)
  readonly person: string
  /** What has been written to the same place meanwhile, or null: in another tab, or on another machine. */
  elsewhere = $state<{ text: string; where: 'another tab' | 'another browser' } | null>(null)
  kept = $state<Kept>('service')
  #ended = false
  #bringing?: ReturnType<typeof setTimeout>
  #key = ''

  constructor(exercise: Exercise, person: string) {
    super(exercise)
    this.person = person
    const language = localStorage.getItem(this.#place('language'))
    window.addEventListener('storage', this.#notice)
    this.choose((exercise.languages.includes(language ?? '') ? language : exercise.languages[0]) as Language)
    document.addEventListener('visibilitychange', this.#leaving)
  }

  #leaving = () => {
    if (document.visibilityState === 'hidden' && this.#unsaved(this.language)) void this.#bring(true)
  }

  // The service's copy. version is the last that this browser knows; unsaved stands while the browser's text is newer.

  #version = (language: Language) => Number(localStorage.getItem(this.#place(language + '.version')) ?? 0)
  #unsaved = (language: Language) => localStorage.getItem(this.#place(language + '.unsaved')) !== null

  #note(language: Language, version: number, unsaved: boolean) {
    localStorage.setItem(this.#place(language + '.version'), String(version))
    if (unsaved) localStorage.setItem(this.#place(language + '.unsaved'), '1')
    else localStorage.removeItem(this.#place(language + '.unsaved'))
  }

  async #fetch() {
    try {
      const drafts = await api.drafts(this.exercise.name)
      if (this.#ended) return
      for (const language of this.exercise.languages as Language[])
        this.#compare(
          language,
          drafts.find((d) => d.language === language),
        )
      this.#tellKept()
    } catch (error) {
      this.#later(error)
    }
  }

  #compare(language: Language, theirs: Saved | undefined) {
    const mine = localStorage.getItem(this.#place(language))
    const unsaved = this.#unsaved(language)
    if (!theirs || theirs.version === this.#version(language) || (unsaved && theirs.text === mine)) {
      if (theirs) this.#note(language, theirs.version, unsaved && theirs.text !== mine)
      if (this.#unsaved(language)) this.#bringSoon(0)
    } else if (!unsaved) {
      localStorage.setItem(this.#place(language), theirs.text)
      this.#note(language, theirs.version, false)
      if (language === this.language && theirs.text !== this.text) this.choose(language)
    } else if (language === this.language) {
      this.#note(language, theirs.version, true)
      this.elsewhere = { text: theirs.text, where: 'another browser' }
    }
  }

  #bringSoon(after: number) {
    clearTimeout(this.#bringing)
    this.#bringing = setTimeout(() => void this.#bring(false), after)
  }

  async #bring(leaving: boolean) {
    clearTimeout(this.#bringing)
    if (this.elsewhere) return // the person chooses first
    try {
      for (const language of this.exercise.languages as Language[])
        if (this.#unsaved(language)) await this.#bringOne(language, leaving)
      this.#tellKept()
    } catch (error) {
      if (error instanceof Problem && error.status === 409) void this.#fetch()
      else this.#later(error)
    }
  }

  async #bringOne(language: Language, leaving: boolean) {
    const text = localStorage.getItem(this.#place(language)) ?? ''
    const saved = await api.saveDraft(this.exercise.name, language, text, this.#version(language), leaving)
    this.#note(language, saved.version, localStorage.getItem(this.#place(language)) !== text)
  }

  #tellKept() {
    this.kept = this.#unsaved(this.language) ? 'browser' : 'service'
  }

  /** The service does not answer, or not as it should: the text stays here, and is brought there when it does. */
  #later(error: unknown) {
    if (this.#ended || (error instanceof Problem && error.status === 401)) return
    this.kept = 'waiting'
    clearTimeout(this.#bringing)
    this.#bringing = setTimeout(() => void this.#fetch(), again)
  }

  #notice = (event: StorageEvent) => {
    if (event.key !== this.#place(this.language) || event.newValue === null) return
    this.elsewhere = event.newValue === this.text ? null : { text: event.newValue, where: 'another tab' }
  }

  /** Goes on with what the other tab has; or keeps what stands here. */
  settle(take: boolean) {
    const text = take ? this.elsewhere!.text : this.text
    this.elsewhere = null
    localStorage.setItem(this.#place(this.language), text)
    this.#note(this.language, this.#version(this.language), true)
    if (take) this.choose(this.language)
    this.#bringSoon(0)
  }

  end() {
    window.removeEventListener('storage', this.#notice)
    document.removeEventListener('visibilitychange', this.#leaving)
    this.leave()
    clearTimeout(this.#bringing)
    this.#ended = true
    if (this.#unsaved(this.language) && !this.elsewhere) void this.#bring(true)
  }

  #place(what: string) {
    return `celandine.${this.person}.${this.exercise.name}.${what}`
  }

  /** One's other texts for this exercise. */
  others(): { label: string; file: string; text: string }[] {
    const list = []
    for (const language of this.exercise.languages) {
      const kept = language === this.language ? null : localStorage.getItem(this.#place(language))
      if (kept)
        list.push({
          label: `the ${words[language as Language].toLowerCase()}, as now`,
          file: 'mine.' + language,
          text: kept,
        })
      const starter = this.exercise.starters[language]
      if (starter)
        list.push({
          label: `the starter, ${words[language as Language].toLowerCase()}`,
          file: 'starter.' + language,
          text: starter,
        })
    }
    return list
  }

  get file() {
    return 'mine.' + this.language
  }

  get begins() {
    return this.exercise.starters[this.language] ?? ''
  }

  choose(language: Language) {
    this.language = language
    localStorage.setItem(this.#place('language'), language)
    this.begin(localStorage.getItem(this.#place(language)) ?? this.begins)
    void this.#fetch()
  }

  protected keep(text: string) {
    this.#key = ''
    localStorage.setItem(this.#place(this.language), text)
    this.#note(this.language, this.#version(this.language), true)
    if (this.kept !== 'waiting') {
      this.kept = 'browser'
      this.#bringSoon(soon)
    }
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
