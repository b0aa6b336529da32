/** The kinds, rates and formats that Python knows; terms.json is generated from it. */
import type { CueKind, ExportFormat, MomentKind } from '@/api/client'
import terms from '@/api/terms.json'
import type { How } from '@/lib/stack'

export const CUE_KINDS = Object.keys(terms.cue_kinds) as CueKind[]
/** What people call a kind of cue. */
export const kindName = (kind: CueKind | null | undefined) => (kind ? terms.cue_kinds[kind] : '')
/** Of several cues on one frame, the first in this order is meant. */
export const LANDED_ON = terms.landed_on as CueKind[]
export const MOMENT_KINDS = terms.moment_kinds as MomentKind[]
/** What frames are made of, by the number that the core gives them. */
export const HOWS = terms.hows as How[]
/** Accents that go together on a tie. */
export const ACCENT_SETS = terms.accent_sets
export const RATES: string[] = terms.rates
/** What an edit can be exported as, the usual one first. */
export const FORMATS = terms.formats as {
  value: ExportFormat
  name: string
  note: string
  pictures: boolean
  qualities: boolean
  loops: boolean
  ending: string
  sound: boolean
}[]
/** What is left around the letters of a title in their picture, in heights of a line. */
export const LETTERS_MARGIN = terms.letters_margin
/** How many cues may be meant: of the last one it says that all are. */
export const MOST_PINS = terms.most_pins
