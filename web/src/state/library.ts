import type { Owned } from '../api'

/** Which exercises of a library are looked for. */
export interface Wanted {
  letters: string
  topic: string
  whose: 'all' | 'own' | 'shared' | 'class'
}

/** The exercises that are looked for: their letters stand in the title, the name, the topic or a class. */
export function found(all: Owned[], wanted: Wanted, me: string, ofClass: string): Owned[] {
  const letters = wanted.letters.trim().toLowerCase()
  const whose: Record<Wanted['whose'], (e: Owned) => boolean> = {
    all: () => true,
    own: (e) => e.owner === me,
    shared: (e) => e.owner !== me,
    class: (e) => e.classes.includes(ofClass),
  }
  return all.filter(
    (e) =>
      whose[wanted.whose](e) &&
      (!wanted.topic || e.topic === wanted.topic) &&
      [e.title, e.name, e.topic, ...e.classes].some((text) => text.toLowerCase().includes(letters)),
  )
}

export const topicsOf = (all: Owned[]) => [...new Set(all.map((e) => e.topic).filter(Boolean))].sort()

/** How far an exercise is, in words. */
export function stateOf(e: Owned): string {
  if (e.withdrawn) return 'withdrawn'
  if (!e.revision) return 'draft'
  return `revision ${e.revision}` + (e.writing ? ', changed since' : '')
}
