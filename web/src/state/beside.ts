import { Core } from '../core/core'
import type { Exercise } from '../api'
import { Bench } from './bench.svelte'

/** Puts another program on a bench beside one; both begin anew on the same inputs. Returns why not, '' where it runs. */
export async function putBeside(bench: Bench, exercise: Exercise, file: string, text: string): Promise<string> {
  takeAway(bench)
  const core = new Core()
  const problem = await bench.compare(new Bench(exercise, core, core.open(exercise)), file, text)
  if (problem) core.end()
  return problem
}

/** Ends what stands beside a program. */
export function takeAway(bench: Bench) {
  bench.partner?.core.end()
  bench.partner = null
}
