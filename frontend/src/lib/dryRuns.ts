/**
 * What commands would do to one revision of an edit. Nothing of it can change, so each is asked once:
 * a handle that comes back to where it was, or to where it was seen to be going, is answered at once.
 */
import { bytes, Failure, type Command, type DerivedChange, type Schemas } from '@/api/client'
import { Budget } from './budget'
import { unpack } from './packet'

const KEPT_BYTES = 16 << 20
const REFUSAL_BYTES = 1 << 10
/** As many as are asked ahead at once: the answer is there before a hand has moved on. */
const AHEAD = 4

type Outcomes = { outcomes: Schemas['Outcome'][] }

export class DryRuns {
  private kept = new Budget<DerivedChange | Failure>(KEPT_BYTES)
  private asked = new Map<string, Promise<DerivedChange>>()

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
   * Ask in one question what may be wished for next, the likeliest first. What fails is told when it is
   * wished for.
   */
  async foresee(commands: Command[]): Promise<void> {
    const keys = [...new Set(commands.map((command) => JSON.stringify(command)))]
    const fresh = keys.filter((key) => !this.kept.get(key) && !this.asked.has(key))
    await Promise.allSettled(this.ask(fresh.slice(0, AHEAD)))
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
    const packet = await bytes(`/api/edits/${this.edit}/dry-run`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: `{"base":${this.base},"commands":[${keys.join(',')}]}`,
    })
    const { outcomes } = unpack<Outcomes>(packet)
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
