import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import { newCore } from '../../test/core'
import { api, Problem, type Saving, type Writing } from '../api'
import { bytesOf, textOf } from '../base64'
import { Script } from './script.svelte'
import { Workshop } from './workshop.svelte'

const yaml = `format: celandine/exercise/1
name: mist
title: Mist   # kept
panel:
  inputs:
    - {name: mist_on, at: "%IX0.0", device: button}
  outputs:
    - {name: mist_valve, at: "%QX0.0", device: valve}
graded:
  - {signal: mist_valve}
scenarios:
  - name: follows
    for: 2s
    steps:
      - {at: 500ms, tap: mist_on, for: 500ms}
    expect: solution
`
const solution = 'PROGRAM mist\nmist_valve := mist_on;\nEND_PROGRAM\n'

const until = (holds: () => void) => vi.waitFor(holds, { timeout: 60_000 })

/** What the service has. */
let stored: { files: Record<string, string>; version: number; by: string }
let w: Workshop

const writing = (): Writing => ({
  owner: 'nadia',
  name: 'mist',
  files: Object.fromEntries(Object.entries(stored.files).map(([n, t]) => [n, bytesOf(t)])),
  settled: '',
  version: stored.version,
  base: 0,
  newest: 0,
  may: 'change',
  withdrawn: false,
  savedBy: stored.by,
  saved: '2026-03-02T08:00:00Z',
})

async function save(_o: string, _e: string, what: Saving) {
  if (what.version !== stored.version) throw new Problem(409, 'newer', 'newer')
  for (const [n, content] of Object.entries(what.files as Record<string, string>)) stored.files[n] = textOf(content)
  for (const n of what.gone ?? []) delete stored.files[n]
  stored.version++
  return writing()
}

beforeEach(async () => {
  localStorage.clear()
  stored = {
    files: { 'exercise.yaml': yaml, 'brief.md': 'Press it.', 'solution.st': solution },
    version: 1,
    by: 'Rosa',
  }
  vi.spyOn(api, 'saveWriting').mockImplementation(save)
  vi.spyOn(api, 'writing').mockImplementation(async () => writing())
  const core = await newCore()
  w = new Workshop(core, core, 'nadia', writing())
  await until(() => expect(w.judgement?.ready).toBe(true))
})
afterEach(() => {
  w.end()
  vi.restoreAllMocks()
})

test('a change is one place of exercise.yaml, and the service has it', async () => {
  await w.put('title', 'Mist, held')
  await w.bring()
  expect(stored.files['exercise.yaml']).toBe(yaml.replace('title: Mist ', 'title: Mist, held '))
  expect(w.kept).toBe('service')
})

test('every change is taken back, and made again', async () => {
  await w.put('title', 'One')
  await w.put('topic', 'latches')
  w.undo()
  w.undo()
  expect(w.files.texts['exercise.yaml']).toBe(yaml)
  w.redo()
  expect(w.files.texts['exercise.yaml']).toContain('title: One ')
  expect([w.undoable, w.redoable]).toEqual([true, true])
})

test('letters typed one after the other are one change', () => {
  w.write('brief.md', 'P', true)
  w.write('brief.md', 'Pr', true)
  w.undo()
  expect(w.files.texts['brief.md']).toBe('Press it.')
})

test('what cannot be done is told, and changes nothing', async () => {
  expect(
    await w.change('moveEdge', {
      scenario: 9,
      to: 4,
      edge: { step: 0, turn: 0, input: '', scan: 0, state: 0, moves: 'at' },
    }),
  ).toBe(false)
  expect(w.problem).toContain('not there any more')
  expect(w.files.texts['exercise.yaml']).toBe(yaml)
})

test('changes of different files come together', async () => {
  stored.files['brief.md'] = 'Rosa wrote this.'
  stored.version = 2
  await w.put('title', 'Mine')
  await w.bring()
  await until(() => expect(w.notice).toContain('Rosa has changed'))
  await w.bring()
  await until(() => expect(w.kept).toBe('service'))
  expect(stored.files['brief.md']).toBe('Rosa wrote this.')
  expect(stored.files['exercise.yaml']).toContain('title: Mine ')
})

test('of changes of one file one is chosen, and the other is one undo away', async () => {
  stored.files['brief.md'] = 'Rosa wrote this.'
  stored.version = 2
  w.write('brief.md', 'I wrote this.')
  await w.bring()
  await until(() => expect(w.elsewhere?.by).toBe('Rosa'))
  w.choose(true)
  expect(w.files.texts['brief.md']).toBe('Rosa wrote this.')
  w.undo()
  expect(w.files.texts['brief.md']).toBe('I wrote this.')
})

test('what the service has not stays in the browser, and goes on from there', async () => {
  vi.spyOn(api, 'saveWriting').mockRejectedValue(new Problem(0, 'away'))
  w.write('brief.md', 'Not saved.')
  await w.bring()
  await until(() => expect(w.kept).toBe('waiting'))
  const again = new Workshop(w.core, w.judge, 'nadia', writing())
  expect(again.files.texts['brief.md']).toBe('Not saved.')
  again.end()
})

test('a change of the solution shows both traces until the instructor says which holds', async () => {
  await until(() => expect(w.settled).toBe(solution))
  w.write('solution.st', solution.replace(':= mist_on', ':= NOT mist_on'))
  await until(() => expect(w.judgement?.scenes[0].moved).toEqual([{ signal: 'mist_valve', scan: 0 }]))
  const script = new Script(w, 0)
  expect(script.lanes.map((l) => l.kind)).toEqual(['input', 'does', 'was'])
  w.settle()
  await until(() => expect(w.judgement?.scenes[0].moved).toEqual([]))
})

test('a stretch of an input is pressed, a button by a tap and a wire broken and mended', async () => {
  const script = new Script(w, 0)
  await script.work({ signal: 'mist_on', from: 120, to: 140 })
  await script.breakWire({ signal: 'mist_on', from: 150, to: 160 })
  await until(() => expect(script.form?.steps.length).toBe(4))
  expect(script.form?.steps.map((s) => [s.at, s.verb, s.for])).toEqual([
    ['500ms', 'tap', '500ms'],
    ['1.2s', 'tap', '200ms'],
    ['1.5s', 'break_wire', ''],
    ['1.6s', 'mend_wire', ''],
  ])
})

test('an edge that is moved by quick keys goes as far as they were pressed', async () => {
  const script = new Script(w, 0)
  const edge = script.edges('mist_on')[0]
  await Promise.all([script.nudge(edge, 1), script.nudge(edge, 1), script.nudge(edge, 10)])
  expect(w.outline?.form.scenarios[0].steps[0].at).toBe('620ms')
})

test('an item that is on its way is not moved back by a second press', async () => {
  await w.change('addPoint', { input: true, type: 'BOOL' })
  await w.look()
  const moved = await Promise.all([w.moveItem('panel/inputs', 0, 1), w.moveItem('panel/inputs', 0, 1)])
  expect(moved).toEqual([true, false])
  expect(w.outline?.form.panel.inputs.map((p) => p.name)).toEqual(['input_1', 'mist_on'])
})

test('what was cut is put elsewhere', async () => {
  const script = new Script(w, 0)
  await script.cut({ signal: '', from: 0, to: 100 })
  await until(() => expect(script.form?.steps).toEqual([]))
  await script.paste({ signal: '', from: 40, to: 60 })
  await until(() => expect(script.form?.steps.map((s) => [s.at, s.verb, s.for])).toEqual([['900ms', 'tap', '500ms']]))
})
