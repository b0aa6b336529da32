/** The kinds and rates that Python knows; terms.json is generated from it. */
import type { CueKind, MomentKind } from '@/api/client'
import terms from '@/api/terms.json'

export const CUE_KINDS = terms.cue_kinds as CueKind[]
/** What people call a kind of cue. */
export const kindName = (kind: string | null | undefined) => (kind === 'hand' ? 'manual' : (kind ?? ''))
/** Of several cues on one frame, the first in this order is meant. */
export const LANDED_ON = terms.landed_on as CueKind[]
export const MOMENT_KINDS = terms.moment_kinds as MomentKind[]
export const RATES: string[] = terms.rates
