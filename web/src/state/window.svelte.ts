/** The stretch of scans that a diagram shows, and its cursor. */
export class ScanWindow {
  from = $state(0)
  to = $state(1)
  /** The scan that is read off, or null. */
  cursor = $state<number | null>(null)
  readonly scans: number

  constructor(scans: number) {
    this.scans = Math.max(scans, 1)
    this.to = this.scans
  }

  get length() {
    return this.to - this.from
  }

  /** Shows length scans with the given one at the given share of the width. */
  #show(length: number, around: number, share: number) {
    length = Math.min(Math.max(Math.round(length), Math.min(8, this.scans)), this.scans)
    this.from = Math.min(Math.max(Math.round(around - length * share), 0), this.scans - length)
    this.to = this.from + length
  }

  zoom(factor: number, around = this.cursor ?? this.from + this.length / 2) {
    const share = (around - this.from) / this.length
    this.#show(this.length * factor, around, Math.min(Math.max(share, 0), 1))
  }

  pan(scans: number) {
    this.#show(this.length, this.from + scans, 0)
  }

  whole() {
    this.#show(this.scans, 0, 0)
  }

  /** Looks closely at one scan. */
  closeTo(scan: number) {
    this.#show(40, scan, 0.5)
    this.cursor = scan
  }

  step(scans: number) {
    this.cursor = Math.min(Math.max((this.cursor ?? this.from) + scans, 0), this.scans - 1)
    if (this.cursor < this.from || this.cursor >= this.to) this.#show(this.length, this.cursor, 0.5)
  }
}
