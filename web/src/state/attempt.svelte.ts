/** Something that a person asks for, and what was wrong with it. */
export class Attempt {
  problem = $state('')
  busy = $state(false)

  /** Does it, and keeps what it throws as the problem; true where all went well. */
  async do(work: () => Promise<unknown>): Promise<boolean> {
    this.problem = ''
    this.busy = true
    try {
      await work()
      return true
    } catch (error) {
      this.problem = (error as Error).message
      return false
    } finally {
      this.busy = false
    }
  }
}
