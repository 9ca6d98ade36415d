import { api, chooseClass, onSignedOut, type Problem, type Class, type Person } from '../api'

/** How long after the service did not answer it is asked again, in ms. */
const again = 2000

/** Who is signed in. */
class Session {
  person = $state<Person | null>(null)
  /** False until the service has said who it is. */
  known = $state(false)
  /** Why the sign-in page is shown, where there is something to say. */
  notice = $state('')

  /** The classes to choose from, and the one that is looked at. */
  classes = $state<Class[]>([])
  class = $state<Class | null>(null)

  get teaches() {
    return this.person?.role === 'instructor' || this.person?.role === 'administrator'
  }

  /** Looks at another class. */
  choose(id: number) {
    this.class = this.classes.find((c) => c.id === id) ?? this.classes[0] ?? null
    chooseClass(this.class?.id ?? 0)
    if (this.class) localStorage.setItem('celandine.class', String(this.class.id))
  }

  /** Looks at a class that was made or changed just now. */
  async look(id: number) {
    this.classes = await api.classes()
    this.choose(id)
  }

  async #welcome(person: Person) {
    this.classes = person.role === 'administrator' ? await api.classes() : (person.classes ?? [])
    this.choose(Number(localStorage.getItem('celandine.class')))
    this.person = person
    this.notice = ''
  }

  constructor() {
    onSignedOut(() => {
      if (!this.person) return
      this.person = null
      this.notice = 'Your session has ended. Sign in again; your text is kept on this device.'
    })
  }

  /** Asks who is signed in, until the service answers. */
  async load() {
    while (!this.known) {
      try {
        const { person } = await api.session()
        if (person) await this.#welcome(person)
        this.known = true
      } catch (error) {
        const { status, message } = error as Problem
        this.known = status !== 0 && status !== 503
        if (status !== 401) this.notice = message
        if (!this.known) await new Promise((done) => setTimeout(done, again))
      }
    }
  }

  async signIn(login: string, password: string) {
    await this.#welcome(await api.signIn(login, password))
  }

  async join(code: string, password: string) {
    await this.#welcome(await api.join(code, password))
  }

  async signOut() {
    await api.signOut()
    this.person = null
    location.hash = '#/'
  }
}

export const session = new Session()
