import { expect, test } from 'vitest'
import { difference, History } from './history'

test.each([
  ['abc', 'abXc', { at: 2, out: '', in: 'X' }],
  ['abc', 'ac', { at: 1, out: 'b', in: '' }],
  ['aaa', 'aa', { at: 2, out: 'a', in: '' }],
  ['', 'x', { at: 0, out: '', in: 'x' }],
  ['same', 'same', { at: 4, out: '', in: '' }],
])('%o becomes %o by one splice', (before, after, splice) => {
  expect(difference(before, after)).toEqual(splice)
})

/** Types letters one after the other, so many ms apart. */
function typed(h: History, letters: string, apart = 100) {
  let text = ''
  ;[...letters].forEach((l, n) => {
    h.note(text, text + l, 1000 + n * apart)
    text += l
  })
  return text
}

test('letters typed one after the other are one change', () => {
  const h = new History()
  expect(h.undo(typed(h, 'mist'))).toEqual({ text: '', at: 0 })
  expect(h.undoable).toBe(false)
})

test('a pause and a new line begin another change', () => {
  const slow = new History()
  expect(slow.undo(typed(slow, 'ab', 800))!.text).toBe('a')
  const lines = new History()
  expect(lines.undo(typed(lines, 'a\n'))!.text).toBe('a')
})

test('what was not typed is a change of its own', () => {
  const h = new History()
  h.note('', 'a')
  h.note('a', 'ab')
  expect(h.undo('ab')!.text).toBe('a')
})

test('what was taken back is made again, until something else is written', () => {
  const h = new History()
  h.note('', 'one')
  h.note('one', 'one two')
  const back = h.undo('one two')!
  expect(h.redo(back.text)).toEqual({ text: 'one two', at: 3 })
  h.undo('one two')
  h.note('one', 'one!')
  expect(h.redo('one!')).toBeNull()
})

test('what changes nothing is no change', () => {
  const h = new History()
  h.note('a', 'a')
  expect(h.undo('a')).toBeNull()
})
