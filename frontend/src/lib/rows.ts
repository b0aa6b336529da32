/** Stretches of time in rows: each in the first row that is free when it begins, in the last where none is. */
export class Rows {
  private readonly ends: number[] = []

  /** With `slack` one may begin so long before another has ended, and yet follow it. */
  constructor(
    private readonly most: number,
    private readonly slack = 0,
  ) {}

  /** The row of a stretch; they come in the order in which they begin. One that has a row keeps it. */
  take(begin: number, end: number, kept?: number): number {
    const free = kept ?? this.ends.findIndex((before) => before <= begin + this.slack)
    const row = free >= 0 ? free : Math.min(this.ends.length, this.most - 1)
    this.ends[row] = Math.max(this.ends[row] ?? 0, end)
    return row
  }

  get count(): number {
    return Math.max(1, this.ends.length)
  }
}
