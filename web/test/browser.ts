// What the state asks of a browser, as far as it does, in plain memory.
import { beforeEach, vi } from 'vitest'

class Memory implements Storage {
  #kept = new Map<string, string>()
  get length() {
    return this.#kept.size
  }
  clear() {
    this.#kept.clear()
  }
  getItem(key: string) {
    return this.#kept.get(key) ?? null
  }
  key(n: number) {
    return [...this.#kept.keys()][n] ?? null
  }
  removeItem(key: string) {
    this.#kept.delete(key)
  }
  setItem(key: string, value: string) {
    this.#kept.set(key, value)
  }
}

class Page extends EventTarget {
  visibilityState = 'visible'
}

beforeEach(() => {
  vi.stubGlobal('localStorage', new Memory())
  vi.stubGlobal('window', new EventTarget())
  vi.stubGlobal('document', new Page())
  vi.stubGlobal('requestAnimationFrame', (work: (now: number) => void) => setTimeout(() => work(performance.now()), 5))
  vi.stubGlobal('cancelAnimationFrame', clearTimeout)
  vi.stubGlobal('navigator', {})
})
