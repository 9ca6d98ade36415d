import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest'
import { newCore } from '../../test/core'
import { ladder, mist } from '../../test/exercise'
import { Service } from '../../test/service'
import type { Core } from '../core/core'
import { Draft } from './draft.svelte'
import { Drawing } from './drawing.svelte'

let core: Core
let draft: Draft
let drawing: Drawing

beforeEach(async () => {
  new Service()
  core = await newCore()
  await core.open(mist)
})
afterEach(() => draft.end())

/** A drawing of these rungs, with the cursor at the first element. */
async function drawn(...rungs: string[]) {
  draft = new Draft(mist, 'liam')
  draft.write(ladder(...rungs))
  drawing = new Drawing(draft, core)
  await drawing.follow(draft.text)
  await vi.waitFor(() => expect(drawing.blocks.length).toBeGreaterThan(0))
  return drawing
}

/** The rungs as they stand in the text. */
const rungs = () => /LADDER\n([\s\S]*)END_LADDER/.exec(draft.text)![1].trim().split('\n')

/** Waits for the changes under way. */
const made = () => new Promise<void>((done) => drawing.after(done))

async function named(text: string, next: 'right' | 'unnamed' | 'stay' = 'right') {
  await drawing.name(text, next)
  await made()
}

describe('putting in', () => {
  test('what is typed on an empty path becomes a contact', async () => {
    await drawn('RUNG { [mist_on] | } -- (mist_valve);')
    drawing.go(0, [0, 1, 0])
    await drawing.put('contact')
    await named('mist_valve')
    expect(rungs()).toEqual(['RUNG { [mist_on] | [mist_valve] } -- (mist_valve);'])
  })

  test('a contact goes before the element at the cursor, and its name is asked for', async () => {
    await drawn('RUNG [mist_on] -- (mist_valve);')
    await drawing.put('contact')
    expect(drawing.writing).toEqual({ what: 'name', text: '' })
    expect(rungs()).toEqual(['RUNG [] -- [mist_on] -- (mist_valve);'])
    await named('mist_off')
    expect(rungs()).toEqual(['RUNG [mist_off] -- [mist_on] -- (mist_valve);'])
    expect(drawing.item?.label).toBe('mist_on')
  })

  test('with names asked for later the whole shape is drawn first', async () => {
    await drawn('RUNG [mist_on] -- (mist_valve);')
    drawing.asks = false
    await drawing.put('contact')
    await drawing.put('contact')
    expect(rungs()).toEqual(['RUNG [] -- [] -- [mist_on] -- (mist_valve);'])
    expect(drawing.unnamed.length).toBe(2)
    drawing.nextUnnamed()
    drawing.edit()
    await named('mist_off', 'unnamed')
    expect(drawing.writing).not.toBeNull()
    await named('mist_valve', 'unnamed')
    expect([rungs()[0], drawing.writing]).toEqual([
      'RUNG [mist_off] -- [mist_valve] -- [mist_on] -- (mist_valve);',
      null,
    ])
  })

  test('a branch goes round what is chosen', async () => {
    await drawn('RUNG [mist_on] -- [mist_off] -- (mist_valve);')
    drawing.move(1, true)
    expect(drawing.chosen.length).toBe(2)
    await drawing.branch()
    expect(rungs()).toEqual(['RUNG { [mist_on] -- [mist_off] | } -- (mist_valve);'])
  })

  test('in the new path of a branch waits the name of a contact', async () => {
    await drawn('RUNG [mist_on] -- [mist_off] -- (mist_valve);')
    await drawing.branch()
    expect(drawing.writing).toEqual({ what: 'name', text: '', fresh: true })
    await named('mist_valve')
    expect(rungs()).toEqual(['RUNG { [mist_on] | [mist_valve] } -- [mist_off] -- (mist_valve);'])
  })

  test('letters are a name in an empty path and on an element without one, and nowhere else', async () => {
    await drawn('RUNG { [] | } -- [mist_off] -- (mist_valve);')
    const at = (...path: number[]) => {
      drawing.go(0, path)
      return drawing.namable
    }
    expect([at(0, 0, 0), at(0, 1, 0), at(1), at(2)]).toEqual([true, true, false, false])
    drawing.go(0, [0, 1, 0])
    drawing.typeName('m')
    expect(drawing.writing).toEqual({ what: 'name', text: 'm', begun: true, fresh: true })
    await named('mist_on')
    expect(rungs()).toEqual(['RUNG { [] | [mist_on] } -- [mist_off] -- (mist_valve);'])
  })

  test('a branch is drawn from one point of a series to another', async () => {
    await drawn('RUNG [mist_on] -- [mist_off] -- (mist_valve);')
    drawing.asks = false
    await drawing.branchBetween(0, [], 2, 0)
    expect(rungs()).toEqual(['RUNG { [mist_on] -- [mist_off] | } -- (mist_valve);'])
  })

  test('a rung is added behind the cursor’s, or before it', async () => {
    await drawn('RUNG [mist_on] -- (mist_valve);')
    await drawing.addRung()
    expect(drawing.index).toBe(1)
    drawing.go(0)
    await drawing.addRung(true)
    expect(drawing.rungs.length).toBe(3)
    expect(drawing.rungs[1].geometry.items.length).toBe(2)
  })

  test('the first element of an empty ladder makes its rung', async () => {
    await drawn()
    await drawing.put('coil')
    await named('mist_valve')
    expect(rungs()).toEqual(['RUNG (mist_valve);'])
  })

  test('a timer is put in with its preset and declared', async () => {
    await drawn('RUNG [mist_on] -- (mist_valve);')
    drawing.go(0, [1])
    drawing.choose(drawing.blocks.find((b) => b.name === 'TON')!)
    expect(drawing.writing).toMatchObject({ instance: 'timer_1', values: { PT: 'T#5s' }, en: false })
    await drawing.putBlock()
    expect(rungs()).toEqual(['RUNG [mist_on] -- timer_1(PT := T#5s) -- (mist_valve);'])
    expect(draft.text).toContain('timer_1 : TON;')
    await vi.waitFor(() => expect(drawing.known('timer_1')).toBe(true))
    expect(drawing.freeName(drawing.blocks.find((b) => b.name === 'TP')!)).toBe('timer_2')
    expect(drawing.freeName(drawing.blocks.find((b) => b.name === 'CTUD_LINT')!)).toBe('counter_1')
  })

  test('a name that is new is offered to be declared, with the type that its place implies', async () => {
    await drawn('RUNG [mist_on] -- (mist_valve);')
    await drawing.put('contact')
    await named('door_open')
    await vi.waitFor(() => expect(drawing.offered).toMatchObject({ name: 'door_open', types: ['BOOL'] }))
    await drawing.declare('BOOL')
    expect(draft.text).toContain('door_open : BOOL;')
    expect(drawing.offered).toBeNull()
  })

  test('what is compared with a number is offered as one', async () => {
    await drawn('RUNG [mist_on] -- (mist_valve);')
    await drawing.put('contact')
    await named('heads >= 5')
    await vi.waitFor(() => expect(drawing.offered?.types).toEqual(['INT', 'DINT', 'REAL']))
  })

  test('a name that cannot be is told, and its field opens again with it', async () => {
    await drawn('RUNG [mist_on] -- (mist_valve);')
    await named('mist valve ]')
    expect(drawing.problem).not.toBe('')
    expect(drawing.writing).toEqual({ what: 'name', text: 'mist valve ]' })
    expect(rungs()).toEqual(['RUNG [mist_on] -- (mist_valve);'])
  })

  test('letters typed before the field opens are for the name', async () => {
    await drawn('RUNG [mist_on] -- (mist_valve);')
    const putting = drawing.put('contact')
    drawing.writing = null
    drawing.open(() => drawing.edit())
    for (const key of ['m', 'i', 'x', 'Backspace']) expect(drawing.typedAhead(key)).toBe(true)
    await putting
    await made()
    expect(drawing.writing).toEqual({ what: 'name', text: 'mi', begun: true })
    expect(drawing.typedAhead('x')).toBe(false)
  })
})

describe('changing', () => {
  test.each([
    ['[mist_on]', '[/mist_on]'],
    ['[/mist_on]', '[mist_on]'],
    ['[P mist_on]', '[N mist_on]'],
  ])('%s is inverted in place to %s', async (before, after) => {
    await drawn(`RUNG ${before} -- (mist_valve);`)
    await drawing.invert()
    expect(rungs()).toEqual([`RUNG ${after} -- (mist_valve);`])
  })

  test('the kinds of a coil follow one another, or one is chosen', async () => {
    await drawn('RUNG [mist_on] -- (mist_valve);')
    drawing.go(0, [1])
    expect(drawing.kinds().map((k) => k.mark)).toEqual(['', '/', 'S', 'R', 'P', 'N'])
    await drawing.kind()
    expect(rungs()[0]).toContain('(/mist_valve)')
    await drawing.kind('S')
    expect(rungs()[0]).toContain('(S mist_valve)')
  })

  test('an element, then an empty rung is taken out', async () => {
    await drawn('RUNG [mist_on];', 'RUNG [mist_off] -- (mist_valve);')
    await drawing.remove()
    expect(drawing.rungs[0].geometry.items.length).toBe(0)
    await drawing.remove()
    expect(rungs()).toEqual(['RUNG [mist_off] -- (mist_valve);'])
  })

  test('going back takes out what is on the left', async () => {
    await drawn('RUNG [mist_on] -- [mist_off] -- (mist_valve);')
    drawing.go(0, [1])
    await drawing.remove(false)
    await drawing.undo()
    drawing.go(0, [3])
    await drawing.remove(true)
    expect(rungs()).toEqual(['RUNG [mist_on] -- [mist_off];'])
  })

  test('a rung moves, and the cursor with it', async () => {
    await drawn('RUNG [mist_on];', 'RUNG [mist_off];')
    await drawing.moveRung(1)
    expect(rungs()).toEqual(['RUNG [mist_off];', 'RUNG [mist_on];'])
    expect(drawing.index).toBe(1)
  })

  test('titles and comments stand before their rung', async () => {
    await drawn('RUNG [mist_on] -- (mist_valve);')
    await drawing.title('Mist')
    await drawing.comment('While the button is held')
    expect(draft.text).toContain("(* While the button is held *)\nRUNG 'Mist'\n  [mist_on]")
    expect(drawing.said).toBe('Rung 1 of 1, Mist: open contact mist_on')
  })

  test('the pins of a block are shown as they are written', async () => {
    await drawn('RUNG [mist_on] -- ADD(bed_temp, 10) => warm;')
    drawing.go(0, [1])
    drawing.edit()
    expect(drawing.writing).toMatchObject({
      what: 'block',
      instance: 'ADD',
      values: { IN1: 'bed_temp', IN2: '10', value: 'warm' },
      placed: true,
    })
  })

  test('each change is taken back and made again, one after the other', async () => {
    await drawn('RUNG [mist_on] -- (mist_valve);')
    const before = draft.text
    await drawing.invert()
    await drawing.addRung()
    await drawing.undo()
    await drawing.undo()
    expect(draft.text).toBe(before)
    await drawing.redo()
    expect(rungs()).toEqual(['RUNG [/mist_on] -- (mist_valve);'])
  })

  test('a change made while the text is written elsewhere is not lost', async () => {
    await drawn('RUNG [mist_on] -- (mist_valve);')
    draft.write(ladder('RUNG [mist_off] -- (mist_valve);'))
    await drawing.invert()
    expect(rungs()).toEqual(['RUNG [/mist_off] -- (mist_valve);'])
  })
})

describe('copying', () => {
  test('elements', async () => {
    await drawn('RUNG [mist_on] -- (mist_valve);')
    await drawing.copy()
    drawing.go(0, [1])
    await drawing.paste()
    expect(rungs()).toEqual(['RUNG [mist_on] -- [mist_on] -- (mist_valve);'])
  })

  test('a rung, cut and pasted', async () => {
    await drawn('RUNG [mist_on] -- (mist_valve);', 'RUNG [mist_off];')
    drawing.go(0, [2])
    expect(drawing.run.count).toBe(0)
    await drawing.cut()
    await drawing.paste()
    expect(rungs()).toEqual(['RUNG [mist_off];', 'RUNG [mist_on] -- (mist_valve);'])
  })

  test('a rung beside itself', async () => {
    await drawn('RUNG [mist_on] -- (mist_valve);')
    await drawing.duplicate()
    expect(rungs()).toEqual(['RUNG [mist_on] -- (mist_valve);', 'RUNG [mist_on] -- (mist_valve);'])
  })
})

describe('moving', () => {
  test('right along the series, and down from rung to rung', async () => {
    await drawn('RUNG { [mist_on] | [mist_valve] } -- [mist_off] -- (mist_valve);', 'RUNG [bed_temp > 300];')
    drawing.go(0, [0, 0, 0])
    drawing.move(3)
    expect(drawing.item?.label).toBe('mist_valve')
    drawing.move(3)
    expect(drawing.index).toBe(1)
    expect(drawing.item?.label).toBe('bed_temp > 300')
    drawing.move(2)
    expect(drawing.index).toBe(0)
  })

  test('more is chosen with each step, and never from another series', async () => {
    await drawn('RUNG [mist_on] -- [mist_off] -- (mist_valve);')
    drawing.move(1, true)
    drawing.move(1, true)
    expect(drawing.chosen.length).toBe(3)
    drawing.move(0, true)
    expect(drawing.chosen.length).toBe(2)
    drawing.move(1)
    expect(drawing.chosen.length).toBe(0)
  })

  test('rungs are found by what stands in them', async () => {
    await drawn("RUNG 'Mist' [mist_on];", 'RUNG [mist_off] -- (mist_valve);')
    expect(drawing.find('MIST_OFF')).toEqual([1])
    expect(drawing.find('mist')).toEqual([0, 1])
    expect(drawing.find('')).toEqual([])
  })
})

test('what is wrong is told at its element', async () => {
  await drawn('RUNG [mist_no] -- (mist_valve);')
  draft.core = core
  await vi.waitFor(() => expect(draft.checked).not.toBeNull())
  expect(drawing.wrong(drawing.rungs[0])[0].severity).toBe('error')
  expect(drawing.said).toContain('Did you mean mist_on?')
})

describe('moving an element', () => {
  const moves: [name: string, from: number[], to: number, copies: boolean, want: string, cursor: number[]][] = [
    ['to the right', [0], 2, false, 'RUNG [b] -- [a] -- (c);', [1]],
    ['to the left', [1], 0, false, 'RUNG [b] -- [a] -- (c);', [0]],
    ['as a copy', [0], 2, true, 'RUNG [a] -- [b] -- [a] -- (c);', [2]],
    ['onto itself', [1], 1, false, 'RUNG [a] -- [b] -- (c);', [0]],
  ]
  test.each(moves)('%s', async (_, from, to, copies, want, cursor) => {
    await drawn('RUNG [a] -- [b] -- (c);')
    await drawing.carry({ rung: 0, path: from }, { rung: 0, spot: to }, copies)
    expect(rungs()).toEqual([want])
    expect(drawing.place.path).toEqual(cursor)
  })

  test('into a branch, and into another rung', async () => {
    await drawn('RUNG [a] -- { [b] | [c] } -- (d);', 'RUNG (e);')
    const spot = (path: string) => drawing.rungs[0].geometry.spots.findIndex((s) => s.path.join() === path)
    await drawing.carry({ rung: 0, path: [0] }, { rung: 0, spot: spot('1,1,0') }, false)
    expect(rungs()[0]).toBe('RUNG { [b] | [a] -- [c] } -- (d);')
    expect(drawing.place.path).toEqual([0, 1, 0])
    await drawing.carry({ rung: 0, path: [0, 1, 0] }, { rung: 1, spot: 0 }, false)
    expect(rungs()).toEqual(['RUNG { [b] | [c] } -- (d);', 'RUNG [a] -- (e);'])
  })
})

test('why an instance cannot have a name is told', async () => {
  await drawn('RUNG [mist_on] -- (mist_valve);')
  const timer = drawing.blocks.find((b) => b.name === 'TON')!
  const problem = (name: string) => drawing.instanceProblem(timer, name)
  expect(problem('settle')).toBe('')
  expect(
    [problem(' '), problem('2nd'), problem('then'), problem('mist_on'), problem('ctu')].map((p) => p.split(':')[0]),
  ).toEqual([
    'Give the block a name',
    'A name has letters, digits and _ only, and does not begin with a digit.',
    'then is a word of the language; take another name.',
    'mist_on is declared already, as BOOL; take another name.',
    'ctu is a word of the language; take another name.',
  ])
})
