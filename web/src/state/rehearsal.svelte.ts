import type { Evidence } from '../api'

/** A scenario taken from a result to the bench: its inputs, what is expected, and where it first went wrong. */
export interface Rehearsal {
  exercise: string
  evidence: Evidence
  until?: number
  /** What stands beside is not what is expected, but what somebody drew. */
  drawn?: boolean
}

class Taken {
  now = $state<Rehearsal | null>(null)
}

export const taken = new Taken()
