import { afterEach, expect, test, vi } from 'vitest'
import { editing } from './calls'
import { Loading, WorkerHost, type Host } from './core'

/** Notes what each part of the core is asked, and answers it when it is let. */
function parts() {
  const asked: string[] = []
  const answers: (() => void)[] = []
  const load = (name: string): Host => {
    asked.push('load ' + name)
    return {
      ask: (call, argument) => {
        asked.push(`${name} ${call} ${argument}`)
        return new Promise((done) => answers.push(() => done(name)))
      },
      end: () => void asked.push('end ' + name),
    }
  }
  const settle = async () => {
    for (const answer of answers.splice(0)) answer()
    await new Promise((done) => setTimeout(done))
  }
  return { asked, settle, core: new Loading(load) }
}

test('a key needs the editor alone, and behind its answer the whole is loaded with the same exercise', async () => {
  const { asked, settle, core } = parts()
  const opened = core.ask('open', 'mist')
  const checked = core.ask('check', 'text')
  expect(asked).toEqual(['load editor', 'editor open mist', 'editor check text'])
  await settle()
  expect(await Promise.all([opened, checked])).toEqual(['editor', 'editor'])
  expect(asked.slice(3)).toEqual(['load whole', 'whole open mist'])
})

test('what the editor does not answer is asked of the whole, once it has the exercise', async () => {
  const { asked, settle, core } = parts()
  void core.ask('open', 'mist')
  const begun = core.ask('start', 'program')
  expect(asked).toEqual(['load editor', 'editor open mist', 'load whole', 'whole open mist', 'whole start program'])
  await settle()
  expect(await begun).toBe('whole')
  expect(asked).toHaveLength(5)
})

test('another exercise is opened in both', async () => {
  const { asked, core } = parts()
  void core.ask('start', 'program')
  void core.ask('open', 'trays')
  expect(asked).toEqual(['load whole', 'whole start program', 'whole open trays', 'load editor', 'editor open trays'])
})

test('nothing more is loaded for a page that is left', async () => {
  const { asked, settle, core } = parts()
  void core.ask('check', 'text')
  core.end()
  await settle()
  expect(asked).toEqual(['load editor', 'editor check text', 'end editor'])
})

test('a key is no call of the whole', () => {
  for (const call of ['check', 'draw', 'amend', 'complete']) expect(editing).toContain(call)
  for (const call of ['start', 'grade', 'outline', 'convert']) expect(editing).not.toContain(call)
})

/** Workers that note what they are sent, and say what the test lets them say. */
function workers() {
  const made: { sent: { id: number; call: string }[]; say: (data: unknown) => void; ended: boolean }[] = []
  vi.stubGlobal(
    'Worker',
    class {
      onmessage?: (event: { data: unknown }) => void
      sent: { id: number; call: string }[] = []
      ended = false
      say = (data: unknown) => this.onmessage!({ data })
      constructor() {
        made.push(this)
      }
      postMessage(m: { id: number; call: string }) {
        this.sent.push(m)
      }
      terminate() {
        this.ended = true
      }
    },
  )
  return made
}

afterEach(() => {
  vi.unstubAllGlobals()
  vi.useRealTimers()
})

const stops: [string, (w: { say: (data: unknown) => void }) => void][] = [
  ['does not answer', () => vi.advanceTimersByTime(60_000)],
  ['has stopped', (w) => w.say({ now: 'stopped' })],
]
test.each(stops)('a worker that %s is started again with its exercise, and the caller is told', async (_, stop) => {
  vi.useFakeTimers()
  const made = workers()
  const restarted = vi.fn()
  const host = new WorkerHost('whole', restarted)
  const opened = host.ask('open', 'mist')
  made[0].say({ now: 'loaded' })
  made[0].say({ id: made[0].sent[0].id, answer: 'devices' })
  expect(await opened).toBe('devices')
  vi.advanceTimersByTime(3_600_000) // nothing is due
  expect(made).toHaveLength(1)

  const told = expect(host.ask('check', 'text')).rejects.toThrow('was started again')
  stop(made[0])
  await told
  expect(made[0].ended).toBe(true)
  expect(made[1].sent.map((m) => m.call)).toEqual(['open'])
  expect(restarted).toHaveBeenCalledOnce()
})

test('a worker that stops each time is given up', async () => {
  const made = workers()
  const host = new WorkerHost('whole', () => {})
  for (let n = 0; n < 4; n++) made[n].say({ now: 'stopped' })
  expect(made).toHaveLength(4)
  await expect(host.ask('check', 'text')).rejects.toThrow('keeps stopping')
})

test('loading may take longer than a call', async () => {
  vi.useFakeTimers()
  const made = workers()
  const host = new WorkerHost('whole', () => {})
  const checked = host.ask('check', 'text')
  vi.advanceTimersByTime(299_000)
  expect(made).toHaveLength(1)
  made[0].say({ now: 'loaded' })
  made[0].say({ id: made[0].sent[0].id, answer: 'right' })
  expect(await checked).toBe('right')
})
