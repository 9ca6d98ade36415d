// A service in memory, as far as a draft asks it.
import { vi } from 'vitest'

interface Kept {
  language: string
  text: string
  version: number
}

export class Service {
  drafts: Kept[] = []
  down = false
  /** Hand-ins by their idempotency key. */
  handins = new Map<string, string>()
  /** The next answer is lost on its way, though the work was done. */
  loses = false
  asked: string[] = []

  constructor() {
    vi.stubGlobal('fetch', (path: string, init: RequestInit) => this.#answer(path, init))
    vi.stubGlobal('EventSource', Stream)
  }

  async #answer(path: string, init: RequestInit): Promise<Response> {
    this.asked.push(`${init.method} ${path}`)
    if (this.down) throw new TypeError('no connection')
    const body = init.body ? JSON.parse(init.body as string) : undefined
    const answer = this.#do(path.split('?')[0], init.method!, body, init.headers as Record<string, string>)
    if (this.loses) {
      this.loses = false
      throw new TypeError('the connection broke')
    }
    return answer
  }

  #do(path: string, method: string, body: { text: string; version: number }, headers: Record<string, string>) {
    if (path.endsWith('/drafts') && method === 'GET') return Response.json(this.drafts)
    if (path.includes('/drafts/')) return this.#save(path.split('/').at(-1)!, body)
    if (path.endsWith('/check')) {
      const severity = body.text.includes('wrong') ? [{ severity: 'error' }] : []
      return Response.json({ diagnostics: severity, summary: '', missing: [] })
    }
    if (path.endsWith('/handins')) {
      this.handins.set(headers['Idempotency-Key'], body.text)
      return Response.json({ id: this.handins.size })
    }
    return Response.json({ detail: 'there is no ' + path }, { status: 404 })
  }

  #save(language: string, body: { text: string; version: number }) {
    const kept = this.drafts.find((d) => d.language === language)
    if ((kept?.version ?? 0) !== body.version) return Response.json({ detail: 'another was saved' }, { status: 409 })
    const saved = { language, text: body.text, version: body.version + 1 }
    this.drafts = [...this.drafts.filter((d) => d !== kept), saved]
    return Response.json(saved)
  }
}

/** A stream of events that tells at once that all is graded. */
class Stream {
  addEventListener(_: string, tell: (event: { data: string }) => void) {
    queueMicrotask(() => tell({ data: JSON.stringify({ state: 'graded', points: 10 }) }))
  }
  close() {}
}
