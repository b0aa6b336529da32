/** How long work still takes, told from how it went so far. */
const LEAST_SECONDS = 1.5
/** Work begins slowly: until so much of it is done, or it has gone on for so long, nothing is told. */
const LEAST_PART = 0.05
const LONG_SECONDS = 20

export class Pace {
  private began = 0
  private done = 0
  private last = 0

  /**
   * Seconds left, null while it is too early to say.
   *
   * @param now seconds, of any clock
   * @param left what there is to do, in any unit; more may come in
   */
  left(now: number, left: number): number | null {
    if (this.last === 0) {
      this.began = now
      this.done = 0
    } else this.done += Math.max(0, this.last - left)
    this.last = left
    const passed = now - this.began
    const begun = this.done >= LEAST_PART * (this.done + left) || passed >= LONG_SECONDS
    return left && this.done && passed >= LEAST_SECONDS && begun ? (left * passed) / this.done : null
  }
}
