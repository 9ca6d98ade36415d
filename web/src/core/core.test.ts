import { expect, test } from 'vitest'
import { editing } from './calls'
import { Loading, type Host } from './core'

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
