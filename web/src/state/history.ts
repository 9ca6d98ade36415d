/** A change of a text: at a place, one stretch for another. */
export interface Splice {
  at: number
  out: string
  in: string
}

/** The one stretch in which two texts differ. */
export function difference(before: string, after: string): Splice {
  let at = 0
  const least = Math.min(before.length, after.length)
  while (at < least && before[at] === after[at]) at++
  let end = 0
  while (end < least - at && before[before.length - 1 - end] === after[after.length - 1 - end]) end++
  return { at, out: before.slice(at, before.length - end), in: after.slice(at, after.length - end) }
}

const replaced = (text: string, at: number, out: string, put: string) =>
  text.slice(0, at) + put + text.slice(at + out.length)

/** Every change of a text, to be taken back and made again, without end. Letters typed one after the other are one change. */
export class History {
  #done: (Splice & { typed: number })[] = []
  #undone: Splice[] = []

  /** Notes a change. now is when it was typed; a change made otherwise has none. */
  note(before: string, after: string, now = 0) {
    if (before === after) return
    const s = difference(before, after)
    const last = this.#done.at(-1)
    this.#undone = []
    if (
      last &&
      now &&
      now - last.typed < 800 &&
      !s.out &&
      !last.out &&
      s.at === last.at + last.in.length &&
      !s.in.includes('\n')
    ) {
      last.in += s.in
      last.typed = now
      return
    }
    this.#done.push({ ...s, typed: now })
  }

  /** Takes the last change of a text back; null when there is none. */
  undo(text: string): { text: string; at: number } | null {
    const s = this.#done.pop()
    if (!s) return null
    this.#undone.push(s)
    return { text: replaced(text, s.at, s.in, s.out), at: s.at }
  }

  redo(text: string): { text: string; at: number } | null {
    const s = this.#undone.pop()
    if (!s) return null
    this.#done.push({ ...s, typed: 0 })
    return { text: replaced(text, s.at, s.out, s.in), at: s.at }
  }

  get undoable() {
    return this.#done.length > 0
  }
}
