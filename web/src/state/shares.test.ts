import { expect, test } from 'vitest'
import type { Owned } from '../api'
import { found, stateOf } from './library'
import { partOf } from './parts'
import { shares } from './shares'

test.each([
  [[1], [100]],
  [
    [1, 1, 1],
    [34, 33, 33],
  ],
  [
    [3, 1, 1],
    [60, 20, 20],
  ],
  [
    [1, 10, 10],
    [5, 48, 47],
  ],
  [[], []],
])('the shares of %j add up', (weights, want) => {
  expect(shares(weights)).toEqual(want)
})

const owned = (o: Partial<Owned>) =>
  ({ owner: 'nadia', name: 'mist', title: 'Mist', topic: 'latches', classes: ['Spring'], revision: 1, ...o }) as Owned
const all = [owned({}), owned({ owner: 'rosa', name: 'fan', title: 'Fan', topic: 'timers', classes: [] })]

test.each([
  ['all', { letters: '', topic: '', whose: 'all' } as const, ['mist', 'fan']],
  ['letters of a title', { letters: 'FAN', topic: '', whose: 'all' } as const, ['fan']],
  ['letters of a class', { letters: 'spr', topic: '', whose: 'all' } as const, ['mist']],
  ['a topic', { letters: '', topic: 'timers', whose: 'all' } as const, ['fan']],
  ['own', { letters: '', topic: '', whose: 'own' } as const, ['mist']],
  ['shared', { letters: '', topic: '', whose: 'shared' } as const, ['fan']],
  ['of the class', { letters: '', topic: '', whose: 'class' } as const, ['mist']],
])('exercises are found by %s', (_, wanted, names) => {
  expect(found(all, wanted, 'nadia', 'Spring').map((e) => e.name)).toEqual(names)
})

test.each([
  [{ revision: 0, writing: true }, 'draft'],
  [{ revision: 2, writing: false }, 'revision 2'],
  [{ revision: 2, writing: true }, 'revision 2, changed since'],
  [{ revision: 2, withdrawn: true }, 'withdrawn'],
])('an exercise %j is a %s', (o, words) => {
  expect(stateOf(owned(o))).toBe(words)
})

test.each([
  ['panel/inputs/0/name', '', 'points'],
  ['', 'brief.md', 'brief'],
  ['', 'solution.ladder', 'programs'],
  ['scenarios/2', '', 'scenarios'],
  ['graded/0', '', 'marks'],
  ['', 'mistakes/x.st', 'programs'],
])('what is wrong at %s%s is mended in %s', (at, file, part) => {
  expect(partOf({ at, file })).toBe(part)
})
