// The real core, in Node.
import { readFile } from 'node:fs/promises'
import '../src/core/wasm_exec.js'
import { Core, type Host } from '../src/core/core'

type Ask = (call: string, argument: string) => { answer?: string; problem?: string }
declare const Go: new () => { importObject: WebAssembly.Imports; run(i: WebAssembly.Instance): Promise<void> }
const host = globalThis as unknown as { celandine?: Ask; celandineReady?: () => void }

const bytes = readFile(new URL('../src/core/celandine.wasm', import.meta.url))
let compiled: Promise<WebAssembly.Module> | undefined

/** A core of its own, as a page has it. */
export async function newCore(): Promise<Core> {
  compiled ??= bytes.then((b) => WebAssembly.compile(b))
  const go = new Go()
  const instance = await WebAssembly.instantiate(await compiled, go.importObject)
  const ready = new Promise<void>((done) => (host.celandineReady = done))
  void go.run(instance)
  await ready
  const ask = host.celandine!
  const answering: Host = {
    ask: async (call, argument) => {
      const { answer, problem } = ask(call, argument)
      if (problem !== undefined) throw new Error(problem)
      return answer ?? 'null'
    },
    end() {},
  }
  return new Core(answering)
}
