import { api, onSignedOut, Problem, type Person } from '../api'

/** Who is signed in. */
class Session {
  person = $state<Person | null>(null)
  /** False until the service has said who it is. */
  known = $state(false)
  /** Why the sign-in page is shown, where there is something to say. */
  notice = $state('')

  constructor() {
    onSignedOut(() => {
      if (!this.person) return
      this.person = null
      this.notice = 'Your session has ended. Sign in again; your text is kept on this device.'
    })
  }

  async load() {
    try {
      this.person = await api.me()
    } catch (error) {
      if (error instanceof Problem && error.status !== 401) this.notice = error.message
    }
    this.known = true
  }

  async signIn(login: string, password: string) {
    this.person = await api.signIn(login, password)
    this.notice = ''
  }

  async signOut() {
    await api.signOut()
    this.person = null
    location.hash = '#/'
  }
}

export const session = new Session()
