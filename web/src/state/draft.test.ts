import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest'
import { newCore } from '../../test/core'
import { holdIn, ladder, mist } from '../../test/exercise'
import { Service } from '../../test/service'
import { Draft } from './draft.svelte'

let service: Service
let draft: Draft

const settled = () => vi.advanceTimersByTimeAsync(0)

beforeEach(async () => {
  vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] })
  service = new Service()
})
afterEach(() => {
  draft?.end()
  vi.useRealTimers()
})

async function opened(person = 'liam') {
  draft = new Draft(mist, person)
  await settled()
  return draft
}

test('it begins with the starter of the first language', async () => {
  await opened()
  expect(draft.text).toBe(mist.starters.ladder)
  expect(draft.file).toBe('mine.ladder')
})

test('what is written is in the browser at once, and in the service a moment later', async () => {
  await opened()
  draft.write(holdIn, true)
  expect(localStorage.getItem('celandine.liam.mist-hold-in.ladder')).toBe(holdIn)
  expect([draft.kept, service.drafts]).toEqual(['browser', []])
  await vi.advanceTimersByTimeAsync(1500)
  expect(service.drafts).toEqual([{ language: 'ladder', text: holdIn, version: 1 }])
  expect(draft.kept).toBe('service')
})

test('while the service does not answer the text waits in the browser, and is brought there when it does', async () => {
  await opened()
  service.down = true
  draft.write(holdIn)
  await vi.advanceTimersByTimeAsync(1500)
  expect(draft.kept).toBe('waiting')
  service.down = false
  await vi.advanceTimersByTimeAsync(4000)
  await vi.advanceTimersByTimeAsync(100)
  expect(service.drafts[0]?.text).toBe(holdIn)
  expect(draft.kept).toBe('service')
})

test('each language has a text of its own, and the last one chosen comes back', async () => {
  await opened()
  draft.write(holdIn)
  draft.choose('st')
  expect(draft.text).toBe(mist.starters.st)
  draft.write('PROGRAM mist\nEND_PROGRAM\n')
  draft.end()
  await opened()
  expect([draft.language, draft.text]).toEqual(['st', 'PROGRAM mist\nEND_PROGRAM\n'])
  draft.choose('ladder')
  expect(draft.text).toBe(holdIn)
})

describe('another text was saved meanwhile', () => {
  beforeEach(async () => {
    await opened()
    service.drafts = [{ language: 'ladder', text: 'theirs', version: 1 }]
    draft.write('mine')
    await vi.advanceTimersByTimeAsync(1500)
  })

  test('neither is lost: the person is asked', () => {
    expect(draft.elsewhere).toEqual({ text: 'theirs', where: 'another browser' })
    expect(draft.text).toBe('mine')
    expect(service.drafts[0].text).toBe('theirs')
  })

  test('theirs is taken', async () => {
    draft.settle(true)
    await vi.advanceTimersByTimeAsync(100)
    expect([draft.text, service.drafts[0].text, draft.elsewhere]).toEqual(['theirs', 'theirs', null])
  })

  test('one keeps one’s own', async () => {
    draft.settle(false)
    await vi.advanceTimersByTimeAsync(100)
    expect([draft.text, service.drafts[0].text, draft.elsewhere]).toEqual(['mine', 'mine', null])
  })
})

test('a newer text of the service is shown where nothing was written here', async () => {
  service.drafts = [{ language: 'ladder', text: holdIn, version: 4 }]
  await opened()
  expect(draft.text).toBe(holdIn)
})

test('what another tab writes is told', async () => {
  await opened()
  const key = 'celandine.liam.mist-hold-in.ladder'
  window.dispatchEvent(Object.assign(new Event('storage'), { key, newValue: 'theirs' }))
  expect(draft.elsewhere).toEqual({ text: 'theirs', where: 'another tab' })
})

test('changes are taken back and made again, and tell where', async () => {
  await opened()
  draft.write(mist.starters.ladder + '// more')
  expect(draft.undo()).toBe(mist.starters.ladder.length)
  expect(draft.text).toBe(mist.starters.ladder)
  expect(draft.redo()).toBe(mist.starters.ladder.length)
  expect(draft.undo()).toBeGreaterThan(0)
  expect(draft.undo()).toBe(-1)
})

test('the core checks a moment after the last letter, with the ways out', async () => {
  await opened()
  draft.core = await newCore()
  await draft.core.open(mist)
  draft.write(ladder('RUNG [mist_no] -- (mist_valve);'))
  expect(draft.checked).toBeNull()
  await vi.advanceTimersByTimeAsync(250)
  expect(draft.checked?.summary).toBe('1 error, 0 warnings')
  expect(draft.checked?.marks).toMatchObject([{ unit: 0, number: 0, severity: 'error' }])
  expect(draft.checked?.fixes?.[0][0]).toMatchObject({ name: 'Write mist_on', insert: 'mist_on' })
})

test('the text is written as the printer has it', async () => {
  await opened()
  draft.core = await newCore()
  draft.write('program mist\nmist_valve:=mist_on;\nend_program')
  await draft.format()
  expect(draft.text).toBe('PROGRAM mist\nmist_valve := mist_on;\nEND_PROGRAM\n')
  draft.write('program')
  await draft.format()
  expect(draft.problem).toMatch(/^mend the errors first: /)
})

test('a text with errors is not handed in', async () => {
  await opened()
  draft.write('wrong')
  await draft.handIn()
  expect(draft.problem).toMatch(/Nothing was handed in/)
  expect(service.handins.size).toBe(0)
})

test('a second try after a lost answer is the same hand-in', async () => {
  await opened()
  draft.write(holdIn)
  draft.problem = ''
  service.asked = []
  const losing = draft.handIn()
  await vi.waitFor(() => expect(service.asked.length).toBe(1))
  service.loses = true
  await losing
  expect(draft.problem).toMatch(/cannot be reached/)
  await draft.handIn()
  expect([...service.handins.values()]).toEqual([holdIn])
  expect(draft.graded).toBe(1)
  await draft.handIn()
  expect(service.handins.size).toBe(2)
})
