// The core, off the main thread: what answers a key, where the worker is named editor, or the whole. A message is {id, call, argument}; the
// answer has the same id. It tells when the core is loaded, and when it has stopped.
import './wasm_exec.js'
import whole from './celandine.wasm?url'
import editor from './editor.wasm?url'

declare class Go {
  env: Record<string, string>
  importObject: WebAssembly.Imports
  run(instance: WebAssembly.Instance): Promise<void>
}

interface Host {
  celandine?: (call: string, argument: string) => { answer?: string; problem?: string }
  celandineReady?: () => void
}

const host = self as unknown as Host

const ready = new Promise<void>((done, fail) => {
  host.celandineReady = () => {
    self.postMessage({ now: 'loaded' })
    done()
  }
  const go = new Go()
  go.env = { GOGC: '400' } // there is one thread, and what it collects the learner waits for
  WebAssembly.instantiateStreaming(fetch(self.name === 'editor' ? editor : whole), go.importObject)
    .then(({ instance }) => go.run(instance))
    .then(() => self.postMessage({ now: 'stopped' })) // it never returns by itself
    .catch(fail)
})

ready.catch(() => {}) // whoever asks is told

self.onmessage = async (event: MessageEvent<{ id: number; call: string; argument: string }>) => {
  const { id, call, argument } = event.data
  try {
    await ready
    self.postMessage({ id, ...host.celandine!(call, argument) })
  } catch (error) {
    self.postMessage({ id, problem: 'The core could not be loaded: ' + (error as Error).message })
  }
}
