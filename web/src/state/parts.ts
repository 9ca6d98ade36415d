import type { Workshop } from './workshop.svelte'

/** The parts of the workshop, in the order of the work. */
export const parts = [
  ['points', 'Points'],
  ['brief', 'Brief'],
  ['programs', 'Programs'],
  ['scenarios', 'Scenarios'],
  ['marks', 'What is graded'],
  ['try', 'Try it'],
  ['publish', 'Publish'],
] as const
export type Part = (typeof parts)[number][0]

/** The part in which something wrong at a place or in a file is mended. */
export function partOf(problem: { at: string; file: string }): Part {
  const [first] = (problem.at || problem.file).split(/[/.]/)
  const of: Record<string, Part> = {
    panel: 'points',
    brief: 'brief',
    solution: 'programs',
    starter: 'programs',
    mistakes: 'programs',
    tasks: 'programs',
    languages: 'programs',
    scenarios: 'scenarios',
    scripts: 'scenarios',
    expected: 'scenarios',
    graded: 'marks',
    rules: 'marks',
  }
  return of[first] ?? 'publish'
}

/** How much is wrong or open in each part. */
export function unfinished(w: Workshop): Partial<Record<Part, number>> {
  const counts: Partial<Record<Part, number>> = {}
  for (const p of w.problems) counts[partOf(p)] = (counts[partOf(p)] ?? 0) + 1
  const moved = w.judgement?.scenes.filter((s) => s.moved.length).length ?? 0
  if (moved) counts.scenarios = (counts.scenarios ?? 0) + moved
  return counts
}

/** How far the exercise is. */
export function stateIn(w: Workshop): string {
  const written = w.version > 0 || w.kept !== 'service'
  if (!w.base) return 'draft'
  return `revision ${w.base}` + (written ? ', changed since' : '')
}
