import { describe, expect, test } from 'vitest'
import { apart, asTrace, changeAfter, moved, painted, readDrawn, valueOf, without, written, type Line } from './drawn'

const pulse: Line = [
  [0, 0],
  [5, 1],
  [8, 0],
]

describe('painting a line of 20 scans', () => {
  test.each<[string, Line, [number, number, number], Line]>([
    [
      'from a scan to the end',
      [[0, 0]],
      [5, 20, 1],
      [
        [0, 0],
        [5, 1],
      ],
    ],
    ['a stretch', [[0, 0]], [5, 8, 1], pulse],
    [
      'over a change',
      pulse,
      [3, 6, 1],
      [
        [0, 0],
        [3, 1],
        [8, 0],
      ],
    ],
    ['over everything', pulse, [0, 20, 1], [[0, 1]]],
    ['what is so already', pulse, [5, 8, 1], pulse],
    [
      'two that meet',
      pulse,
      [8, 12, 1],
      [
        [0, 0],
        [5, 1],
        [12, 0],
      ],
    ],
    [
      'a number between',
      [
        [0, 0],
        [4, 7],
      ],
      [6, 9, 2],
      [
        [0, 0],
        [4, 7],
        [6, 2],
        [9, 7],
      ],
    ],
    [
      'from the beginning',
      pulse,
      [0, 2, 1],
      [
        [0, 1],
        [2, 0],
        [5, 1],
        [8, 0],
      ],
    ],
  ])('%s', (_, line, [from, to, value], want) => {
    expect(painted(line, from, to, value, 20)).toEqual(want)
  })

  test('says of each scan what was painted, and of no other', () => {
    for (let from = 0; from < 12; from++)
      for (let to = from + 1; to <= 12; to++) {
        const line = painted(pulse, from, to, 3, 12)
        for (let scan = 0; scan < 12; scan++)
          expect(valueOf(line, scan)).toBe(scan >= from && scan < to ? 3 : valueOf(pulse, scan))
      }
  })
})

test('a change is moved between its neighbours, and taken out', () => {
  expect(moved(pulse, 1, 2, 20)[1]).toEqual([2, 1])
  expect(moved(pulse, 1, 30, 20)[1]).toEqual([7, 1])
  expect(moved(pulse, 2, 30, 20)[2]).toEqual([19, 0])
  expect(without(pulse, 2)).toEqual([
    [0, 0],
    [5, 1],
  ])
  expect(without(pulse, 1)).toEqual([[0, 0]])
  expect([changeAfter(pulse, 5, 20), changeAfter(pulse, 8, 20)]).toEqual([8, 20])
})

test('what is written is read again', () => {
  const all = {
    exact: {
      lines: {
        lamp: pulse,
        count: [
          [0, 0],
          [8, 2],
        ] as Line,
      },
    },
    'by hand': { lines: {}, erratic: 'Two coils' },
  }
  const text = written(['by hand', 'exact', 'not said'], ['lamp', 'count'], all)
  expect(text).toBe('# by hand\nerratic: Two coils\n\n# exact\nscan,lamp,count\n0,0,0\n5,1,0\n8,0,2\n')
  expect(readDrawn(text)).toEqual(all)
})

test('a trace has the signals that are asked', () => {
  const script = { period: 1, scans: 20, signals: [] }
  const trace = asTrace(script, [{ signal: 'lamp', type: 'BOOL' }], { lines: { lamp: pulse } })
  expect(trace.signals).toEqual([
    {
      name: 'lamp',
      type: 'BOOL',
      segments: [
        [0, 0, 0],
        [5, 1, 0],
        [8, 0, 0],
      ],
    },
  ])
})

test.each<[string, Line, Line, number, number]>([
  ['the same', pulse, pulse, 0, -1],
  [
    'off by what is allowed',
    pulse,
    [
      [0, 0],
      [7, 1],
      [9, 0],
    ],
    2,
    -1,
  ],
  [
    'off by more',
    pulse,
    [
      [0, 0],
      [8, 1],
      [9, 0],
    ],
    2,
    5,
  ],
  ['a pulse too many', pulse, [...pulse, [12, 1], [13, 0]], 2, 12],
  ['a pulse that is missing', pulse, [[0, 0]], 2, 5],
  [
    'another value',
    [
      [0, 0],
      [5, 2],
    ],
    [
      [0, 0],
      [5, 3],
    ],
    2,
    5,
  ],
  ['TRUE from the beginning', [[0, 1]], [[0, 0]], 2, 0],
])('two lines part: %s', (_, line, other, slack, scan) => {
  expect(apart(line, other, slack)).toBe(scan)
})
