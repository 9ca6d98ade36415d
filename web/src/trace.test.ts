import { expect, test } from 'vitest'
import type { Column, Trace } from './contract'
import { bounds, clock, columnNamed, differences, formatValue, valueAt, wordFor, lengthOf, tickEvery } from './trace'

const column = (type: string, ...segments: [number, number | string, number][]): Column => ({
  name: 'fan',
  type,
  segments,
})

test('a value is its segment’s, and what the slope has added', () => {
  const c = column('TIME', [0, 0, 0], [10, 0, 5], [14, 20, 0])
  expect([0, 9, 10, 13, 14, 99].map((scan) => valueAt(c, scan))).toEqual([0, 0, 0, 15, 20, 20])
  expect(bounds(c, 0, 14)).toEqual([10])
})

test('a real that is no number is one all the same', () => {
  expect(valueAt(column('REAL', [0, 1.5, 0], [4, 'NaN', 0]), 5)).toBeNaN()
  expect(valueAt(column('REAL', [0, '-Infinity', 0]), 5)).toBe(-Infinity)
})

test.each([
  ['BOOL', 1, 'TRUE'],
  ['INT', -3, '-3'],
  ['TIME', 0, 'T#0s'],
  ['TIME', 61.5e9, 'T#1m1s500ms'],
  ['TIME', -1500e6, 'T#-1s500ms'],
  ['TIME', 90061e9, 'T#1d1h1m1s'],
])('%s %d is written %s', (type, value, words) => {
  expect(formatValue(column(type), value)).toBe(words)
})

test('a text is its place among the column’s', () => {
  expect(formatValue({ ...column('STRING'), texts: ['idle', 'run'] }, 1)).toBe('run')
})

test('stretches in which two columns differ are joined', () => {
  const a = column('BOOL', [0, 0, 0], [10, 1, 0], [20, 0, 0])
  expect(differences(a, column('BOOL', [0, 0, 0], [12, 1, 0], [25, 0, 0]), 40)).toEqual([
    [10, 12],
    [20, 25],
  ])
  expect(differences(a, column('BOOL', [0, 0, 0]), 40)).toEqual([[10, 20]])
  expect(differences(a, a, 40)).toEqual([])
})

test('two orders of the same names are the same', () => {
  const a = { ...column('STRING', [0, 0, 0], [5, 1, 0]), texts: ['idle', 'run'] }
  const b = { ...column('STRING', [0, 1, 0], [5, 0, 0]), texts: ['run', 'idle'] }
  expect(differences(a, b, 10)).toEqual([])
})

test('names are found in any case, and instants are seconds', () => {
  const trace: Trace = { period: 10_000_000, scans: 500, signals: [column('BOOL')] }
  expect(columnNamed(trace, 'FAN')).toBeDefined()
  expect([clock(trace, 412), wordFor(true), wordFor(7)]).toEqual(['4.12 s', 'TRUE', '7'])
})

test('lengths of time read as people say them', () => {
  const said = [0, 1, 10e6, 159e7, 1e9, 412e7, 6101e7, 36e11, -25e7].map(lengthOf)
  expect(said).toEqual(['0 s', '0.000001 ms', '10 ms', '1.59 s', '1 s', '4.12 s', '1 min 1.01 s', '60 min', '-250 ms'])
})

test.each([
  [50, 10, 10, 5],
  [200, 10, 10, 20],
  [400, 10, 8, 50],
  [6000, 10, 8, 1000],
  [60000, 10, 8, 10000],
  [8, 10, 10, 1],
])('an axis of %i scans of %i ms with about %i marks has one each %i', (scans, period, most, every) => {
  expect(tickEvery(scans, period, most)).toBe(every)
})
