import { api, type Course, type Owned, type Section } from '../api'

/** A course being put in order. Every change is saved at once. */
export class CoursePlan {
  title = $state('')
  sections = $state.raw<Section[]>([])
  problem = $state('')
  saved = $state(true)
  readonly owner: string
  readonly name: string
  /** The exercises that its owner has. */
  readonly library: Owned[]
  #version: number
  #saving: Promise<unknown> = Promise.resolve()

  constructor(c: Course, library: Owned[]) {
    this.owner = c.owner
    this.name = c.name
    this.title = c.title
    this.sections = c.sections
    this.#version = c.version
    this.library = library.filter((e) => e.owner === c.owner)
  }

  get have() {
    return this.sections.flatMap((s) => s.exercises)
  }

  /** What could be put in yet. */
  get others() {
    return this.library.filter((e) => !this.have.includes(e.name))
  }

  of = (name: string) => this.library.find((e) => e.name === name)

  change(sections: Section[], title = this.title) {
    this.sections = sections
    this.title = title
    this.saved = false
    this.#saving = this.#saving.then(async () => {
      const { title, sections } = this
      try {
        const c = await api.saveCourse(this.owner, this.name, { version: this.#version, title, sections })
        this.#version = c.version
        this.saved = title === this.title && sections === this.sections // it may have changed meanwhile
        this.problem = ''
      } catch (error) {
        this.problem = (error as Error).message
      }
    })
    return this.#saving
  }

  #with(n: number, change: (s: Section) => Section) {
    return this.sections.map((s, i) => (i === n ? change(s) : s))
  }

  retitle = (title: string) => this.change(this.sections, title)
  addSection = (title: string) => this.change([...this.sections, { title, exercises: [] }])
  renameSection = (n: number, title: string) => this.change(this.#with(n, (s) => ({ ...s, title })))
  /** Its exercises are no longer in the course. */
  removeSection = (n: number) => this.change(this.sections.filter((_, i) => i !== n))
  moveSection(n: number, by: number) {
    const list = [...this.sections]
    const [s] = list.splice(n, 1)
    list.splice(n + by, 0, s)
    return this.change(list)
  }
  add = (n: number, exercise: string) =>
    this.change(this.#with(n, (s) => ({ ...s, exercises: [...s.exercises, exercise] })))
  remove = (n: number, exercise: string) =>
    this.change(this.#with(n, (s) => ({ ...s, exercises: s.exercises.filter((e) => e !== exercise) })))

  /** Moves an exercise by one place; from the end of a section it goes into the next. */
  move(n: number, at: number, by: 1 | -1) {
    const lists = this.sections.map((s) => [...s.exercises])
    const [moved] = lists[n].splice(at, 1)
    const to = at + by
    if (to >= 0 && to <= lists[n].length) lists[n].splice(to, 0, moved)
    else if (lists[n + by]) lists[n + by].splice(by > 0 ? 0 : lists[n + by].length, 0, moved)
    else return Promise.resolve()
    return this.change(this.sections.map((s, i) => ({ ...s, exercises: lists[i] })))
  }

  /** Puts an exercise before another, or at the end of a section. */
  put(exercise: string, n: number, before: string | null) {
    const lists = this.sections.map((s) => s.exercises.filter((e) => e !== exercise))
    const at = before === null ? lists[n].length : lists[n].indexOf(before)
    if (exercise === before || at < 0) return Promise.resolve()
    lists[n].splice(at, 0, exercise)
    return this.change(this.sections.map((s, i) => ({ ...s, exercises: lists[i] })))
  }
}
