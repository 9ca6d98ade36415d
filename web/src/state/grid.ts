// A class's marks as a grid: sections, totals, what is sorted and what is left out. It knows no page.
import type { MarkRow, Marks, Summary } from '../contract'

export type Filter = 'all' | 'missing' | 'late' | 'below'
export type Sort = { by: 'name' | 'total' | 'missing' | number; down: boolean }

export interface Section {
  topic: string
  count: number
}

export interface Total {
  earned: number
  /** Of the exercises that have a mark. */
  points: number
  missing: number
  late: number
}

export type State = 'whole' | 'part' | 'none' | 'waiting' | 'missing'

type Cell = MarkRow['marks'][number]

/** How a cell stands, which its shape tells. */
export function stateOf(mark: Cell, points: number): State {
  if (mark.earned === undefined) return mark.handins ? 'waiting' : 'missing'
  return mark.earned >= points ? 'whole' : mark.earned > 0 ? 'part' : 'none'
}

/** Exercises of one topic that stand beside each other. */
export function sections(exercises: Summary[]): Section[] {
  const list: Section[] = []
  for (const e of exercises) {
    const last = list.at(-1)
    if (last?.topic === e.topic) last.count++
    else list.push({ topic: e.topic, count: 1 })
  }
  return list
}

/** The exercises by topic, the topics as they come first, each topic's as they come. */
export function byTopic(exercises: Summary[]): { topic: string; exercises: Summary[] }[] {
  const topics = new Map<string, Summary[]>()
  for (const e of exercises) topics.set(e.topic, [...(topics.get(e.topic) ?? []), e])
  return [...topics].map(([topic, list]) => ({ topic, exercises: list }))
}

export function totalOf(row: MarkRow, exercises: Summary[]): Total {
  const total = { earned: 0, points: 0, missing: 0, late: 0 }
  row.marks.forEach((m, n) => {
    if (m.earned !== undefined) {
      total.earned += m.earned
      total.points += exercises[n].points
    } else if (!m.handins) total.missing++
    if (m.late) total.late++
  })
  return total
}

/** Of an exercise: how many have a mark, and how much of the points they have of all, from 0 to 1. */
export function rateOf(rows: MarkRow[], exercises: Summary[], n: number): { marked: number; rate: number } {
  const marks = rows.map((r) => r.marks[n].earned).filter((m) => m !== undefined)
  const sum = marks.reduce((a, b) => a + b, 0)
  return {
    marked: marks.length,
    rate: marks.length && exercises[n].points ? sum / (marks.length * exercises[n].points) : 0,
  }
}

/** Below this share of the points somebody needs help. */
const enough = 0.6

/** The rows that are shown, in their order. */
export function arranged(m: Marks, filter: Filter, sort: Sort): MarkRow[] {
  const keeps = (row: MarkRow) => {
    const t = totalOf(row, m.exercises)
    if (filter === 'missing') return t.missing > 0
    if (filter === 'late') return t.late > 0
    return filter !== 'below' || t.earned < enough * t.points || t.points === 0
  }
  const key = (row: MarkRow): number => {
    const t = totalOf(row, m.exercises)
    if (sort.by === 'total') return t.earned
    if (sort.by === 'missing') return t.missing
    return sort.by === 'name' ? 0 : (row.marks[sort.by].earned ?? -1)
  }
  const names = (a: MarkRow, b: MarkRow) => a.person.name.localeCompare(b.person.name)
  const list = m.rows.filter(keeps)
  return list.sort(
    (a, b) =>
      (sort.down ? key(b) - key(a) : key(a) - key(b)) || (sort.by === 'name' && sort.down ? names(b, a) : names(a, b)),
  )
}

/** How far one has come in a list of exercises, and which is next: the first not whole that is open, the nearest due first. */
export function progressOf(list: Summary[]): { whole: number; earned: number; points: number; next?: Summary } {
  const open = list.filter((e) => (e.best ?? -1) < e.points && !e.reason)
  const due = (e: Summary) => (e.due ? Date.parse(e.due) : Infinity)
  return {
    whole: list.filter((e) => e.best !== undefined && e.best >= e.points).length,
    earned: list.reduce((sum, e) => sum + (e.best ?? 0), 0),
    points: list.reduce((sum, e) => sum + e.points, 0),
    next: open.reduce<Summary | undefined>((a, b) => (!a || due(b) < due(a) ? b : a), undefined),
  }
}
