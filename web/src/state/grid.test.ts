import { describe, expect, test } from 'vitest'
import type { Marks, Summary } from '../contract'
import { arranged, byTopic, progressOf, rateOf, sections, stateOf, totalOf } from './grid'

const exercise = (name: string, topic: string, more: Partial<Summary> = {}): Summary => ({
  name,
  title: name,
  topic,
  points: 10,
  revision: 1,
  handins: 0,
  ...more,
})
const person = (name: string) => ({ login: name.toLowerCase(), name, role: 'learner' as const })
const marks = {
  class: 'Glasshouse',
  exercises: [exercise('a', 'latches'), exercise('b', 'latches'), exercise('c', 'timers')],
  rows: [
    { person: person('Liam'), marks: [{ handins: 1, earned: 10 }, { handins: 0 }, { handins: 1, earned: 2, late: 1 }] },
    { person: person('Ana'), marks: [{ handins: 1, earned: 4 }, { handins: 1 }, { handins: 1, earned: 0 }] },
    {
      person: person('Kemi'),
      marks: [
        { handins: 1, earned: 10 },
        { handins: 1, earned: 8 },
        { handins: 2, earned: 10 },
      ],
    },
  ],
} as unknown as Marks
const names = (...given: Parameters<typeof arranged> extends [Marks, ...infer R] ? R : never) =>
  arranged(marks, ...given).map((r) => r.person.name)

test('each cell tells by its shape how it stands', () => {
  const states = marks.rows.flatMap((r) => r.marks.map((m) => stateOf(m, 10)))
  expect(states).toEqual(['whole', 'missing', 'part', 'part', 'waiting', 'none', 'whole', 'part', 'whole'])
})

test('exercises of a topic stand in one section', () => {
  expect(sections(marks.exercises)).toEqual([
    { topic: 'latches', count: 2 },
    { topic: 'timers', count: 1 },
  ])
})

test('a list goes by topics, whatever stands between', () => {
  const list = [exercise('a', 'x'), exercise('b', 'y'), exercise('c', 'x')]
  expect(byTopic(list).map((s) => s.topic + ':' + s.exercises.map((e) => e.name).join(''))).toEqual(['x:ac', 'y:b'])
})

test('totals and rates leave out what has no mark', () => {
  expect(totalOf(marks.rows[0], marks.exercises)).toEqual({ earned: 12, points: 20, missing: 1, late: 1 })
  expect(rateOf(marks.rows, marks.exercises, 0)).toEqual({ marked: 3, rate: 0.8 })
  expect(rateOf([], marks.exercises, 0)).toEqual({ marked: 0, rate: 0 })
})

describe('rows', () => {
  const byName = { by: 'name', down: false } as const
  test.each([
    ['all by name', 'all', byName, ['Ana', 'Kemi', 'Liam']],
    ['all by name, down', 'all', { by: 'name', down: true }, ['Liam', 'Kemi', 'Ana']],
    ['by total, the most first', 'all', { by: 'total', down: true }, ['Kemi', 'Liam', 'Ana']],
    ['by what is missing', 'all', { by: 'missing', down: true }, ['Liam', 'Ana', 'Kemi']],
    ['by one exercise', 'all', { by: 2, down: false }, ['Ana', 'Liam', 'Kemi']],
    ['of whom something is missing', 'missing', byName, ['Liam']],
    ['who were late', 'late', byName, ['Liam']],
    ['below enough', 'below', byName, ['Ana']],
  ] as const)('%s', (_, filter, sort, want) => {
    expect(names(filter, sort)).toEqual(want)
  })
})

test('next is what is open, not whole and due first', () => {
  const list = [
    exercise('a', 't', { best: 10 }),
    exercise('b', 't', { best: 3 }),
    exercise('c', 't', { due: '2026-12-01T10:00:00Z' }),
    exercise('d', 't', { due: '2026-11-01T10:00:00Z', reason: 'closed' }),
  ]
  expect(progressOf(list)).toMatchObject({ whole: 1, earned: 13, points: 40, next: { name: 'c' } })
  expect(progressOf([]).next).toBeUndefined()
})
