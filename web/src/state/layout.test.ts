import { expect, test } from 'vitest'
import { newCore } from '../../test/core'
import { ladder, mist } from '../../test/exercise'
import { frame, heightOf, joints, layout, naturalWidth } from './layout'

async function rung(text: string) {
  const core = await newCore()
  await core.open(mist)
  const { rungs } = await core.draw({ file: 'mine.ladder', text: ladder(text) }, 12)
  return rungs[0]
}

test('a rung ends where it is told to, and never before what it holds', async () => {
  const r = await rung('RUNG [mist_on] -- (mist_valve);')
  expect(layout(r, 600, {}).right).toBeGreaterThan(550)
  expect(layout(r, 0, {}).right).toBeLessThan(naturalWidth(r))
})

test('names stand within their frames, and frames within the rung', async () => {
  const r = await rung('RUNG { [a_very_long_name_of_a_contact] | [b] } -- t(PT := T#5s) -- (mist_valve);')
  const g = r.geometry
  const l = layout(r, 500, {})
  for (const s of g.spots) {
    const f = frame(l, g, s, () => '')
    expect(f.y).toBeGreaterThanOrEqual(0)
    expect(f.y + f.height).toBeLessThanOrEqual(heightOf(g))
    if (s.item >= 0) expect(f.width).toBeGreaterThan(g.items[s.item].label.length * 7)
  }
})

test('between the elements of each series are points, a parallel being one element', async () => {
  const r = await rung('RUNG { [a] -- [b] | [c] } -- (mist_valve);')
  const list = joints(layout(r, 0, {}), r.geometry).map((j) => `${j.series.join()}|${j.index}`)
  expect(list.sort()).toEqual(['0,0|0', '0,0|1', '0,0|2', '0,1|0', '0,1|1', '|0', '|1', '|2'])
})
