import { CompletionContext } from '@codemirror/autocomplete'
import { EditorState, type TransactionSpec } from '@codemirror/state'
import type { EditorView } from '@codemirror/view'
import { beforeEach, expect, test } from 'vitest'
import { newCore } from '../test/core'
import { mist } from '../test/exercise'
import type { Core } from './core/core'
import { completing, offsetOf, waysOut } from './offers'

let core: Core

beforeEach(async () => {
  core = await newCore()
  await core.open(mist)
})

/** What is offered where the ^ stands. */
async function offered(text: string, explicit = false) {
  const [before, after] = text.split('^')
  const state = EditorState.create({ doc: before + after })
  const source = completing(() => ({ core, file: 'mine.ladder' }))
  return source(new CompletionContext(state, before.length, explicit))
}

test('members are offered in a rung, from behind the point', async () => {
  const text =
    'PROGRAM mist\nVAR settle : TON; END_VAR\nLADDER\nRUNG [settle.^] -- (mist_valve);\nEND_LADDER\nEND_PROGRAM'
  const found = await offered(text)
  expect(found?.options.map((o) => o.label)).toEqual(['IN', 'PT', 'Q', 'ET'])
  expect(found?.from).toBe(text.indexOf('^'))
})

test('what is offered takes the place of the letters before the cursor', async () => {
  const text = 'PROGRAM mist\nmist_valve := mist_o^;\nEND_PROGRAM'
  const found = await offered(text)
  expect(found?.from).toBe(text.indexOf('mist_o^'))
  const point = found?.options.find((o) => o.label === 'mist_off')
  expect(point).toMatchObject({ type: 'variable', detail: 'BOOL %IX0.1 Mist OFF', boost: 1 })
})

test('a call is written whole', async () => {
  const found = await offered('PROGRAM mist\nVAR settle : TON; END_VAR\ns^\nEND_PROGRAM')
  expect(found?.options.find((o) => o.label === 'settle(…)')?.apply).toBe('settle(IN := , PT := T#5s)')
})

test('nothing is offered where nothing is written, unless it is asked for', async () => {
  expect(await offered('PROGRAM mist\n^\nEND_PROGRAM')).toBeNull()
  expect((await offered('PROGRAM mist\n^\nEND_PROGRAM', true))?.options.length).toBeGreaterThan(10)
})

test('a way out writes what it says at its place', async () => {
  const text = 'PROGRAM mist\nmist_valve := mist_no;\nEND_PROGRAM\n'
  let state = EditorState.create({ doc: text })
  const view = {
    state,
    dispatch: (spec: TransactionSpec) => (state = state.update(spec).state),
  } as unknown as EditorView
  const { fixes } = await core.check({ file: 'mine.st', text })
  const [write, declare] = waysOut(fixes[0])
  expect([write.name, declare.name]).toEqual(['Write mist_on', 'Declare it as BOOL'])
  write.apply(view, 0, 0)
  expect(state.doc.toString()).toBe(text.replace('mist_no', 'mist_on'))
})

test('a place beyond the text is at its end', () => {
  const state = EditorState.create({ doc: 'ab\ncd' })
  expect([offsetOf(state, 1, 2), offsetOf(state, 1, 99), offsetOf(state, 99, 1), offsetOf(state, 0, 1)]).toEqual([
    1, 2, 3, 0,
  ])
})
