import { beforeEach, expect, test, vi } from 'vitest'
import { newCore } from '../../test/core'
import { holdIn, ladder, mist } from '../../test/exercise'
import type { Exercise, Trace } from '../contract'
import type { Line } from '../drawn'
import { Bench } from './bench.svelte'
import { Foretold } from './foretold.svelte'

const column = (name: string, ...segments: [number, number, number][]) => ({ name, type: 'BOOL', segments })
const script: Trace = {
  period: 10_000_000,
  scans: 40,
  signals: [column('mist_on', [0, 0, 0], [5, 1, 0], [8, 0, 0]), column('mist_off', [0, 1, 0])],
}
const practised: Exercise = {
  ...mist,
  graded: [{ signal: 'mist_valve', weight: 1, slack: 2, type: 'BOOL' }],
  scenarios: [{ name: 'stays on', points: 4, shown: true, practice: true, script }],
}
let bench: Bench

beforeEach(async () => {
  localStorage.clear()
  const core = await newCore()
  bench = new Bench(practised, core, core.open(practised))
  bench.speed = 'ten times'
  await vi.waitFor(() => expect(bench.ready).toBe(true))
})

const foretold = () => new Foretold(practised, bench, 'place')

/** Draws the valve, plays the program and waits for what came of it. */
async function tried(line: Line, program: string) {
  const f = foretold()
  f.line(practised.scenarios[0], 'mist_valve', line)
  await f.play(practised.scenarios[0], 'mine.ladder', program)
  await vi.waitFor(async () => {
    await f.look()
    expect(f.verdict).not.toBeNull()
  }, 20_000)
  return f.verdict!.apart
}

test('a program does what was drawn of it, give or take what is allowed', async () => {
  expect(
    await tried(
      [
        [0, 0],
        [6, 1],
      ],
      holdIn,
    ),
  ).toBeNull()
  expect(bench.lanes.map((l) => l.name)).toContain('mist_valve drawn')
})

test('the first scan at which it does something else is told', async () => {
  const part = await tried(
    [
      [0, 0],
      [5, 1],
    ],
    ladder('RUNG [mist_on] -- (mist_valve);'),
  )
  expect(part).toMatchObject({ signal: 'mist_valve', scan: 8, does: 0, drawn: 1 })
})

test('what was drawn is there again, and is not asked for twice', async () => {
  const f = foretold()
  expect([f.any, f.over]).toEqual([true, false])
  f.line(practised.scenarios[0], 'mist_valve', [
    [0, 0],
    [6, 1],
  ])
  f.end()
  const again = foretold()
  expect(again.of(practised.scenarios[0]).lines.mist_valve).toEqual([
    [0, 0],
    [6, 1],
  ])
  expect(again.over).toBe(true)
})

test('where nothing may be predicted nothing is asked', () => {
  expect(new Foretold(mist, bench, 'other').any).toBe(false)
})
