// A course being put in order.
import { expect, test, vi } from 'vitest'
import { api, type Course } from '../api'
import { CoursePlan } from './course.svelte'

const course: Course = {
  owner: 'nadia',
  name: 'timers-alone',
  title: 'Timers alone',
  sections: [{ title: 'First', exercises: ['vent-settle-delay', 'fan-overrun'] }],
  version: 1,
  saved: '2026-03-02T08:00:00Z',
}

test('a course counts as saved when what stands in it is, however soon one change follows the other', async () => {
  const waiting: (() => void)[] = []
  const sent: string[][] = []
  vi.spyOn(api, 'saveCourse').mockImplementation(async (owner, name, body) => {
    sent.push(body.sections[0].exercises)
    await new Promise<void>((done) => waiting.push(done))
    return { ...course, ...body, owner, name, version: body.version + 1 }
  })
  const plan = new CoursePlan(course, [])
  const first = plan.move(0, 1, -1)
  await vi.waitFor(() => expect(waiting).toHaveLength(1), 20_000)
  const second = plan.move(0, 1, -1)
  waiting[0]()
  await first
  expect(plan.saved).toBe(false)
  await vi.waitFor(() => expect(waiting).toHaveLength(2), 20_000)
  waiting[1]()
  await second
  expect(plan.saved).toBe(true)
  expect(sent).toEqual([
    ['fan-overrun', 'vent-settle-delay'],
    ['vent-settle-delay', 'fan-overrun'],
  ])
})
