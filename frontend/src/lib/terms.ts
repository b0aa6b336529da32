/** The kinds and rates that Python knows; terms.json is generated from it. */
import type { CueKind, MomentKind } from '@/api/client'
import terms from '@/api/terms.json'

export const CUE_KINDS = terms.cue_kinds as CueKind[]
/** Of several cues on one frame, the first in this order is meant. */
export const LANDED_ON = terms.landed_on as CueKind[]
export const MOMENT_KINDS = terms.moment_kinds as MomentKind[]
export const RATES: string[] = terms.rates
