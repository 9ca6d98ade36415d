import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest'
import { newCore } from '../../test/core'
import { holdIn, ladder, mist } from '../../test/exercise'
import type { Trace } from '../contract'
import { Bench, laneAt } from './bench.svelte'

let bench: Bench

async function newBench() {
  const core = await newCore()
  const opened = core.open(mist)
  const b = new Bench(mist, core, opened)
  await vi.waitFor(() => expect(b.ready).toBe(true))
  return b
}

beforeEach(async () => {
  bench = await newBench()
})
afterEach(() => bench.pause())

const begun = (text = holdIn) => bench.start('mine.ladder', text)

/** Presses a button for so many scans and lets go. */
async function tap(name: string, scans = 1) {
  await bench.device(name, { state: 1 })
  await bench.scans(scans)
  await bench.device(name, { state: 0 })
  await bench.scans(1)
}

test('the first scan has run, with everything off and the wiring deciding', async () => {
  await begun()
  expect([bench.loaded, bench.view?.scans]).toEqual([true, 1])
  expect(['mist_on', 'mist_off', 'mist_valve', 'bed_temp'].map((n) => bench.value(n))).toEqual([
    'FALSE',
    'TRUE',
    'FALSE',
    '215',
  ])
})

test('it stays on after the button is let go, until the other one is pressed', async () => {
  await begun()
  await tap('mist_on')
  expect(bench.value('mist_valve')).toBe('TRUE')
  await tap('mist_off')
  expect(bench.value('mist_valve')).toBe('FALSE')
})

test('a broken wire makes an input FALSE, however its device stands', async () => {
  await begun()
  await tap('mist_on')
  await bench.device('mist_off', { broken: true })
  await bench.scans(1)
  expect([bench.value('mist_off'), bench.value('mist_valve'), bench.isBroken('mist_off')]).toEqual([
    'FALSE',
    'FALSE',
    true,
  ])
})

test('what is being written is on the bench before it goes on', async () => {
  await begun()
  bench.follow('mine.ladder', ladder('RUNG [mist_off] -- (mist_valve);'))
  await bench.scans(1)
  expect(bench.view?.values.mist_valve).toBe('TRUE')
  bench.follow('mine.ladder', ladder('RUNG [/mist_off] -- (mist_valve);'))
  bench.run()
  await vi.waitFor(() => expect(bench.running).toBe(true))
  bench.pause()
  await bench.scans(1)
  expect(bench.view?.values.mist_valve).toBe('FALSE')
})

test('a press is seen by a scan, however short it is and whatever is under way', async () => {
  await begun()
  const point = bench.deviceOf('mist_on')!
  // These scans are run when they are asked for; the answer takes its time.
  let answer: () => void
  const late = new Promise<void>((done) => (answer = done))
  const run = bench.core.run
  const asked = vi.spyOn(bench.core, 'run').mockImplementationOnce(async (scans, shown) => {
    const view = await run(scans, shown)
    await late
    return view
  })
  const running = bench.scans(5)
  await vi.waitFor(() => expect(asked).toHaveBeenCalled())
  bench.hand(point, true)
  bench.hand(point, false)
  answer!()
  await running
  expect(bench.view?.values).toMatchObject({ mist_on: 'FALSE', mist_valve: 'FALSE' })
  await bench.scans(1)
  expect(bench.view?.values).toMatchObject({ mist_on: 'TRUE', mist_valve: 'TRUE' })
  await bench.scans(1)
  expect(bench.view?.values).toMatchObject({ mist_on: 'FALSE', mist_valve: 'TRUE' })
})

test('what is done while it begins is done after that', async () => {
  const beginning = begun()
  void bench.device('mist_on', { state: 1 })
  await bench.scans(1)
  await beginning
  expect(bench.view?.values).toMatchObject({ mist_on: 'TRUE', mist_valve: 'TRUE' })
})

test('power is told at each element', async () => {
  await begun()
  await tap('mist_on')
  const [rung] = bench.rungs
  const coil = rung.geometry.items.find((i) => i.kind === 'coil')!
  const button = rung.geometry.items.find((i) => i.label === 'mist_on')!
  expect(bench.flow(rung.start + coil.start)).toMatchObject({ in: true, out: true })
  expect(bench.flow(rung.start + button.start)).toEqual({ in: true, out: false, closed: false })
})

test('devices have the pictures and words of their kind', () => {
  expect(bench.devices).toEqual({
    button: { picture: 'button', on: 'is held pressed', off: 'is not pressed' },
    sensor: { picture: 'slider', on: 'is on', off: 'is off' },
    valve: { picture: 'lamp', on: 'open', off: 'shut' },
  })
})

describe('the faces of blocks', () => {
  const text = (declared: string, call: string) =>
    `PROGRAM mist\nVAR one : ${declared}; END_VAR\nLADDER\nRUNG [mist_on] -- one(${call}) -- (mist_valve);\nEND_LADDER\nEND_PROGRAM\n`
  test.each([
    ['TON', 'PT := T#1s', '50 ms of 1 s'],
    ['TACC', 'R := FALSE, PT := T#1s', '50 ms of 1 s'],
    ['CTU_DINT', 'R := FALSE, PV := 3', '1 of 3'],
    ['R_TRIG', '', ''],
  ])('%s', async (type, call, face) => {
    await begun(text(type, call))
    await bench.device('mist_on', { state: 1 })
    await bench.scans(6)
    const box = bench.rungs[0].geometry.items.find((i) => i.kind === 'box')!
    expect(bench.face(box.label, box)).toBe(face)
  })
})

describe('looking back', () => {
  beforeEach(async () => {
    await begun()
    await bench.scans(9)
    await tap('mist_on')
  })

  test('a scan that is over, and its devices', async () => {
    await bench.look(10)
    expect([bench.at, bench.value('mist_on'), bench.deviceState('mist_on')]).toEqual([10, 'TRUE', 1])
    await bench.look(99)
    expect(bench.at).toBeNull()
  })

  test('the next change of a signal, and the one before', async () => {
    await bench.look(0)
    await bench.nextChange('mist_valve', false)
    expect(bench.at).toBe(10)
    await bench.nextChange('mist_valve', true)
    expect(bench.at).toBe(10) // there is none before
  })

  test('what came after is forgotten', async () => {
    await bench.look(9)
    await bench.back()
    expect([bench.view?.scans, bench.at, bench.value('mist_valve')]).toEqual([10, null, 'FALSE'])
    await bench.scans(5)
    expect(bench.value('mist_valve')).toBe('FALSE')
  })

  test('a hand on a device is on what is, not on what was', async () => {
    await bench.look(3)
    await bench.device('mist_off', { state: 1 })
    await bench.scans(1)
    expect(bench.value('mist_valve')).toBe('FALSE')
  })

  test('why a value was what it was', async () => {
    await bench.ask('mist_valve')
    expect(bench.why?.short[0]).toContain('mist_valve')
  })
})

describe('forces', () => {
  test('hold a value until they are released', async () => {
    await begun()
    await bench.do('force', 'mist_valve', 'TRUE')
    await bench.scans(3)
    expect([bench.value('mist_valve'), bench.view?.forced]).toEqual(['TRUE', ['mist_valve']])
    await bench.release()
    await bench.do('write', 'mist_valve', 'FALSE')
    expect([bench.value('mist_valve'), bench.view?.forced]).toEqual(['FALSE', []])
  })

  test('a value that cannot be is told', async () => {
    await begun()
    await bench.do('force', 'mist_valve', 'often')
    expect(bench.problem).not.toBe('')
  })
})

test('the supply comes back with everything at its beginning', async () => {
  await begun()
  await tap('mist_on')
  await bench.supply()
  expect(bench.value('mist_valve')).toBe('FALSE')
})

describe('another text', () => {
  test('goes on where the old one was', async () => {
    await begun()
    await tap('mist_on')
    await bench.replace(
      'mine.ladder',
      holdIn
        .replace('(mist_valve)', '(mist_valve) -- (S seen)')
        .replace('LADDER\n', 'VAR seen : BOOL; END_VAR\nLADDER\n'),
    )
    expect([bench.value('mist_valve'), bench.notice]).toEqual(['TRUE', ''])
    expect(bench.names).toContain('seen')
  })

  test('with errors leaves the old one running', async () => {
    await begun()
    await bench.scans(1)
    await bench.replace('mine.ladder', ladder('RUNG [mist_no] -- (mist_valve);'))
    expect(bench.notice).toBe('The text has 1 error, 0 warnings; the program before it goes on running.')
    expect([bench.loaded, bench.text]).toEqual([true, holdIn])
  })

  test('that cannot run from the beginning is told', async () => {
    await begun('PROGRAM mist\n')
    expect([bench.loaded, bench.notice.startsWith('This text has ')]).toEqual([false, true])
  })
})

test('another text begins anew while nothing has been done', async () => {
  await begun()
  await bench.replace('mine.ladder', ladder('RUNG [/mist_on] -- (mist_valve);'))
  expect([bench.view?.scans, bench.view?.first, bench.value('mist_valve')]).toEqual([1, 0, 'TRUE'])
})

test('a division by zero stops the run and is told', async () => {
  await bench.start('mine.st', 'PROGRAM mist\nVAR n : INT; END_VAR\nn := 1 / n;\nEND_PROGRAM\n')
  expect(bench.view?.fault).toContain('divides by zero')
  expect(bench.view?.line).toBe(3)
})

test('a text without rungs shows its variables', async () => {
  await bench.start('mine.st', 'PROGRAM mist\nVAR n : INT; END_VAR\nn := n + 1;\nEND_PROGRAM\n')
  expect(bench.watch).toContain('n')
  await bench.removeWatch('n')
  await bench.addWatch('n')
  expect(bench.lanes.map((l) => l.name)).toContain('n')
})

test('two programs beside each other show where they differ', async () => {
  await begun()
  const other = await newBench()
  expect(await bench.compare(other, 'mine.ladder', ladder('RUNG [mist_on] -- (mist_valve);'))).toBe('')
  await tap('mist_on')
  expect(bench.differs).toBe(2)
  expect([bench.value('mist_valve'), other.value('mist_valve')]).toEqual(['TRUE', 'FALSE'])
  await bench.compare(null)
  expect(bench.partner).toBeNull()
})

/** Lets the next drawing take its time, and with it the beginning that it is for. */
function slowly() {
  let slow = 0
  const draw = bench.core.draw.bind(bench.core)
  bench.core.draw = async (program) => {
    if (slow++ < 1) await new Promise((done) => setTimeout(done, 50))
    return draw(program)
  }
}

const still: Trace = { period: 10_000_000, scans: 40, signals: [] }
const rehearsed = {
  exercise: mist.name,
  evidence: { scenario: 'still', inputs: still, expected: still, actual: still },
}

describe('what is done while a program begins is done after that', () => {
  const cases: [string, () => Promise<void>, () => unknown, unknown][] = [
    ['a force', () => bench.do('force', 'mist_valve', 'TRUE'), () => bench.value('mist_valve'), 'TRUE'],
    ['a value written', () => bench.do('write', 'mist_valve', 'TRUE'), () => bench.value('mist_valve'), 'TRUE'],
    ['the supply lost', () => bench.supply(), () => bench.view?.scans, 2],
    ['forces let go', () => bench.release(), () => bench.view?.scans, 2],
    ['a scan walked through', () => bench.walk(), () => bench.stages?.length, 7],
    ['a reason asked for', () => bench.ask('mist_valve'), () => bench.why?.scan, 0],
    ['a scenario', () => bench.play('mine.ladder', holdIn, rehearsed), () => bench.running, true],
  ]
  test.each(cases)('%s', async (_, work, seen, wanted) => {
    await begun()
    slowly()
    await Promise.all([begun(), work()])
    expect([bench.problem, seen()]).toEqual(['', wanted])
  })
})

describe('what is asked of scans that are no more is not answered', () => {
  const cases: [string, () => Promise<void>][] = [
    ['a look', () => bench.look(3)],
    ['the next change', () => bench.nextChange('mist_on', true)],
  ]
  test.each(cases)('%s', async (_, work) => {
    await begun()
    await tap('mist_on')
    await bench.scans(20)
    await bench.look(9)
    const run = bench.core.run
    let asked: Promise<void>
    bench.core.run = (scans, shown) => {
      const answer = run(scans, shown) // the first scan of the new program
      asked = work()
      return answer
    }
    await begun()
    await asked!
    expect([bench.problem, bench.at, bench.view?.scans]).toEqual(['', null, 1])
  })
})

test('a beginning asked for while another is under way comes after it, for both programs', async () => {
  await begun()
  const other = await newBench()
  slowly()
  const compared = bench.compare(other, 'mine.ladder', holdIn)
  await vi.waitFor(() => expect(bench.partner).toBe(other))
  const again = begun()
  bench.hand(bench.deviceOf('mist_on')!, true)
  await bench.scans(3)
  await Promise.all([compared, again])
  expect([bench.view?.scans, other.view?.scans]).toEqual([4, 4])
  expect(bench.differs).toBe(-1)
  expect([bench.value('mist_valve'), other.value('mist_valve')]).toEqual(['TRUE', 'TRUE'])
})

test('a second program that cannot run is told, and none is put beside', async () => {
  await begun()
  expect(await bench.compare(await newBench(), 'mine.ladder', 'PROGRAM')).toMatch(/^This text has /)
  expect(bench.partner).toBeNull()
})

test('what was done by hand is a script', async () => {
  await begun()
  await tap('mist_on')
  const { table, scenario } = await bench.script()
  expect(table).toBe('scan,mist_on,mist_off,bed_temp\n0,0,1,215\n1,1,1,215\n2,0,1,215\n')
  expect(scenario).toContain('press: mist_on')
})

test('a scenario stops behind the scan where the hand-in first went wrong', async () => {
  const column = (name: string, ...segments: [number, number, number][]) => ({ name, type: 'BOOL', segments })
  const trace = (...signals: Trace['signals']): Trace => ({ period: 10_000_000, scans: 40, signals })
  const inputs = trace(column('mist_on', [0, 0, 0], [5, 1, 0], [8, 0, 0]), column('mist_off', [0, 1, 0]))
  const expected = trace(column('mist_valve', [0, 0, 0], [5, 1, 0]))
  bench.speed = 'ten times'
  await bench.play('mine.ladder', ladder('RUNG [mist_on] -- (mist_valve);'), {
    exercise: mist.name,
    evidence: { scenario: 'stays on after release', inputs, expected, actual: expected },
    until: 8,
  })
  await vi.waitFor(() => expect(bench.running).toBe(false), 20_000)
  expect(bench.view?.scan).toBe(8)
  expect(bench.notice).toMatch(/^Stopped at scan 8/)
  expect(bench.lanes.map((l) => l.name)).toContain('mist_valve expected')
})

test('what a script does besides working the inputs, it does on the bench', async () => {
  const column = (name: string, ...segments: [number, number, number][]) => ({ name, type: 'BOOL', segments })
  const inputs: Trace = {
    period: 10_000_000,
    scans: 20,
    signals: [column('mist_on', [0, 0, 0], [2, 1, 0], [4, 0, 0]), column('mist_off', [0, 1, 0])],
    acts: [{ scan: 10, verb: 'restart' }],
  }
  const none = { ...inputs, signals: [] }
  await bench.play('mine.ladder', holdIn, {
    exercise: mist.name,
    evidence: { scenario: 'supply', inputs, expected: none, actual: none },
    until: 0,
  })
  await bench.scans(5)
  expect(bench.value('mist_valve')).toBe('TRUE')
  await bench.scans(6)
  expect(bench.value('mist_valve')).toBe('FALSE')
})

test('a hand holds a button while it presses, and turns a switch each time', async () => {
  const switched = { ...mist, inputs: mist.inputs.map((p) => (p.name === 'mist_on' ? { ...p, device: 'switch' } : p)) }
  const core = await newCore()
  bench = new Bench(switched, core, core.open(switched))
  await vi.waitFor(() => expect(bench.ready).toBe(true))
  await begun()
  const [turned, pressed] = [bench.deviceOf('MIST_ON')!, bench.deviceOf('mist_off')!]
  const press = (down: boolean) => [turned, pressed].forEach((p) => bench.hand(p, down))
  press(true)
  expect([bench.states.mist_on, bench.states.mist_off]).toEqual([1, 1])
  await bench.scans(1)
  press(false)
  expect([bench.states.mist_on, bench.states.mist_off]).toEqual([1, 0])
  press(true)
  expect(bench.states.mist_on).toBe(0)
  expect(bench.deviceOf('bed_temp')).toBeUndefined()
})

test('however short a press is, one scan sees it', async () => {
  await begun()
  const on = bench.deviceOf('mist_on')!
  bench.hand(on, true)
  bench.hand(on, false)
  await bench.scans(1)
  expect([bench.value('mist_on'), bench.value('mist_valve'), bench.states.mist_on]).toEqual(['TRUE', 'TRUE', 0])
  await bench.scans(1)
  expect([bench.value('mist_on'), bench.value('mist_valve')]).toEqual(['FALSE', 'TRUE'])
})

test('a rung is watched with its names, a timer by its time and whether it is done', async () => {
  await begun(
    ladder('RUNG [mist_on] -- t(PT := T#50ms) -- (mist_valve);').replace('LADDER\n', 'VAR t : TON; END_VAR\nLADDER\n'),
  )
  bench.watch = []
  await bench.watchAll(bench.namesOf(bench.rungs[0]))
  expect(bench.watch).toEqual(['mist_on', 't.ET', 't.Q', 'mist_valve'])
  await bench.device('mist_on', { state: 1 })
  await bench.scans(3)
  const elapsed = bench.lanes.find((l) => l.name === 't.ET')!
  expect([elapsed.kind, elapsed.preset]).toEqual(['time', 50_000_000])
  expect([laneAt(elapsed, 0), laneAt(elapsed, 2), laneAt(elapsed, 3)]).toEqual([0, 10_000_000, 20_000_000])
})

describe('walking through a scan', () => {
  test('goes element by element, and the power as far as one has come', async () => {
    await begun()
    await bench.device('mist_on', { state: 1 })
    await bench.scans(1)
    await bench.walk()
    const coil = bench.stages!.findIndex((s) => s.text === '(mist_valve)')
    expect(bench.stages!.map((s) => s.kind)).toEqual([
      'inputs',
      'element',
      'element',
      'branches',
      'element',
      'element',
      'outputs',
    ])
    expect(bench.flow(bench.stages![coil].start)).toBeUndefined()
    bench.stepTo(coil)
    expect(bench.flow(bench.stages![coil].start)).toEqual({ in: true, out: true, closed: true })
    expect(bench.stages![coil].writes).toEqual([{ name: 'mist_valve', before: 'FALSE', after: 'TRUE' }])
  })

  test('follows to another scan, and ends when the bench goes on', async () => {
    await begun()
    await bench.scans(5)
    await bench.walk()
    bench.stepTo(99)
    expect(bench.step).toBe(bench.stages!.length - 1)
    await bench.look(2)
    expect(bench.step).toBe(0)
    await bench.scans(1)
    expect(bench.stages).toBeNull()
  })
})
