/** Keeps what is costly to make, up to so many bytes; what was used least recently goes first. */
export class Budget<T> {
  private kept = new Map<string, { value: T; bytes: number }>()
  private filled = 0

  constructor(
    private most: number,
    private letGo: (value: T) => void = () => undefined,
  ) {}

  get bytes(): number {
    return this.filled
  }

  get(key: string): T | undefined {
    const found = this.kept.get(key)
    if (!found) return undefined
    this.kept.delete(key)
    this.kept.set(key, found)
    return found.value
  }

  /** Keep a value. One alone may be over the budget: somebody needs it now. */
  set(key: string, value: T, bytes: number): void {
    this.forget(key)
    this.kept.set(key, { value, bytes })
    this.filled += bytes
    for (const old of this.kept.keys()) {
      if (this.filled <= this.most || old === key) break
      this.forget(old)
    }
  }

  forget(key: string): void {
    const found = this.kept.get(key)
    if (!found) return
    this.kept.delete(key)
    this.filled -= found.bytes
    this.letGo(found.value)
  }
}
