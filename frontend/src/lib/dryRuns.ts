/**
 * What commands would do to one revision of an edit. Nothing of it can change, so each is asked once:
 * a handle that comes back to where it was, or to where it was seen to be going, is answered at once.
 */
import { bytes, Failure, type Command, type DerivedChange, type Schemas } from '@/api/client'
import { Budget } from './budget'
import { unpack } from './packet'

const KEPT_BYTES = 16 << 20
const REFUSAL_BYTES = 1 << 10
/** How long a hand that drags rests between two steps, in milliseconds. */
const IDLE_MS = 25
/** What a question takes by itself, whatever is asked. */
const QUESTION_MS = 6
/** As many as are asked ahead at once. */
const MOST_AHEAD = 4

type Outcomes = { outcomes: Schemas['Outcome'][] }

export class DryRuns {
  private kept = new Budget<DerivedChange | Failure>(KEPT_BYTES)
  private asked = new Map<string, Promise<DerivedChange>>()
  /** Milliseconds that the answer for one command took lately. */
  private pace = 1

  constructor(
    private edit: number,
    private base: number,
  ) {}

  /** What a command would do, or a Failure. */
  async of(command: Command): Promise<DerivedChange> {
    const key = JSON.stringify(command)
    const known = this.kept.get(key)
    if (known instanceof Failure) throw known
    return known ?? this.asked.get(key) ?? this.ask([key])[0]!
  }

  /**
   * Ask in one question what may be wished for next, the likeliest first: as many as are answered before a
   * hand moves on. What fails is told when it is wished for.
   */
  async foresee(commands: Command[]): Promise<void> {
    const keys = [...new Set(commands.map((command) => JSON.stringify(command)))]
    const fresh = keys.filter((key) => !this.kept.get(key) && !this.asked.has(key))
    const room = Math.floor((IDLE_MS - QUESTION_MS) / this.pace)
    await Promise.allSettled(this.ask(fresh.slice(0, Math.max(1, Math.min(MOST_AHEAD, room)))))
  }

  /** Ask about some commands at once, each known by what it says in JSON. */
  private ask(keys: string[]): Promise<DerivedChange>[] {
    if (keys.length === 0) return []
    const answer = this.question(keys)
    return keys.map((key, i) => {
      const own = answer.then((all) => this.keep(key, all[i]!)).finally(() => this.asked.delete(key))
      this.asked.set(key, own)
      return own
    })
  }

  private async question(keys: string[]): Promise<(DerivedChange | Failure)[]> {
    const began = performance.now()
    const packet = await bytes(`/api/edits/${this.edit}/dry-run`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: `{"base":${this.base},"commands":[${keys.join(',')}]}`,
    })
    const { outcomes } = unpack<Outcomes>(packet)
    this.pace = Math.max(1, performance.now() - began - QUESTION_MS) / keys.length
    return outcomes.map(({ change, refused }) => change ?? new Failure(refused!))
  }

  private keep(key: string, outcome: DerivedChange | Failure): DerivedChange {
    this.kept.set(key, outcome, outcome instanceof Failure ? REFUSAL_BYTES : sizeOf(outcome))
    if (outcome instanceof Failure) throw outcome
    return outcome
  }
}

/** About as many bytes as a change holds: its columns, which are nearly all of it. */
function sizeOf({ clips, map }: DerivedChange): number {
  const perFrame = 10
  const drawn = clips.reduce((sum, clip) => sum + clip.source.length, 0)
  return REFUSAL_BYTES + perFrame * (drawn + (map?.clip.length ?? 0))
}
