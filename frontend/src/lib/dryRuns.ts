/**
 * What commands would do to one revision of an edit. Nothing of it can change, so each is asked once:
 * a handle that comes back to where it was, or to where it was seen to be going, is answered at once.
 */
import { bytes, Failure, type Command, type DerivedChange } from '@/api/client'
import { Budget } from './budget'
import { unpack } from './packet'

const KEPT_BYTES = 16 << 20
const REFUSAL_BYTES = 1 << 10

export class DryRuns {
  private kept = new Budget<DerivedChange | Failure>(KEPT_BYTES)
  /** Milliseconds that the last answer took. */
  pace = 1
  private asked = new Map<string, Promise<DerivedChange>>()

  constructor(
    private edit: number,
    private base: number,
  ) {}

  /** What a command would do, or a Failure. */
  of(command: Command): Promise<DerivedChange> {
    const body = JSON.stringify({ base: this.base, command })
    const known = this.kept.get(body)
    if (known) return known instanceof Failure ? Promise.reject(known) : Promise.resolve(known)
    let answer = this.asked.get(body)
    if (!answer) {
      answer = this.ask(body).finally(() => this.asked.delete(body))
      this.asked.set(body, answer)
    }
    return answer
  }

  /** Ask what may be wished for next; that it fails is told when it is. */
  async foresee(command: Command): Promise<void> {
    await this.of(command).catch(() => undefined)
  }

  private async ask(body: string): Promise<DerivedChange> {
    const began = performance.now()
    try {
      const headers = { 'Content-Type': 'application/json' }
      const packet = await bytes(`/api/edits/${this.edit}/dry-run`, { method: 'POST', headers, body })
      const change = unpack<DerivedChange>(packet)
      this.kept.set(body, change, packet.byteLength)
      this.pace = Math.max(1, performance.now() - began)
      return change
    } catch (failure) {
      // A refusal stays one; that nobody answered may not.
      if (failure instanceof Failure && !failure.passing) this.kept.set(body, failure, REFUSAL_BYTES)
      throw failure
    }
  }
}
