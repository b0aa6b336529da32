/** Pulses in words and small pictures: patterns, units, courses, and settings to begin with. */
import type { Clip, Command, DerivedClip } from '@/api/client'

export type Pass = NonNullable<Clip['passes']>[number]
export type Pulse = Extract<Pass, { kind: 'pulse' }>
export type PulseValues = NonNullable<Extract<Command, { do: 'add-pulse' }>['values']>
export type Tooth = NonNullable<DerivedClip['pulses']>['pulses'][number]['teeth'][number]
export type Pattern = NonNullable<PulseValues['pattern']>

export const PATTERNS: { value: Pattern; text: string }[] = [
  { value: 'step', text: 'Step' },
  { value: 'push', text: 'Push' },
  { value: 'to-and-fro', text: 'To and fro' },
  { value: 'wander', text: 'Wander' },
  { value: 'again', text: 'Again' },
  { value: 'dash', text: 'Dash' },
]
export const UNITS: { value: NonNullable<PulseValues['unit']>; text: string }[] = [
  { value: 'frames', text: 'frames' },
  { value: 'seconds', text: 'seconds' },
  { value: 'share', text: 'of the room' },
]
export const EASINGS: { value: NonNullable<PulseValues['rise']>; text: string }[] = [
  { value: 'straight', text: 'straight' },
  { value: 'soft', text: 'soft' },
  { value: 'sharp', text: 'sharp' },
  { value: 'ease', text: 'ease' },
  { value: 'ease-in', text: 'ease in' },
  { value: 'ease-out', text: 'ease out' },
  { value: 'ease-in-out', text: 'ease in and out' },
]
export const patternName = (pattern: Pattern) => PATTERNS.find(({ value }) => value === pattern)!.text

/** What a pulse moves by, in words: nothing where each cue starts anew. */
export function amountSaid({ pattern, amounts, unit }: PulseValues): string {
  if (pattern === 'again') return ''
  return unitSaid((amounts ?? []).map((each) => +each.toFixed(2)).join(', '), unit)
}
export const unitSaid = (amount: number | string, unit: PulseValues['unit']) =>
  `${amount} ${{ frames: 'frames', seconds: 's', share: 'of the room' }[unit ?? 'frames']}`

export interface Setting {
  name: string
  what: string
  values: PulseValues
  /** Where the picture stands beside its run at a dozen instants of four beats, −1 to 1. */
  course: number[]
}
export const SETTINGS: Setting[] = [
  {
    name: 'Walk',
    what: 'A fifth of a second forward at each cue, with a soft start',
    values: { pattern: 'step', amounts: [0.2], unit: 'seconds', attack: 5, rise: 'soft' },
    course: [-1, -1, -1, -0.5, -0.5, -0.5, 0, 0, 0, 0.5, 0.5, 0.5],
  },
  {
    name: 'Knock',
    what: 'A quick push forward and back',
    values: { pattern: 'push', amounts: [6], attack: 2, release: 12, rise: 'sharp', fall: 'soft' },
    course: [-0.6, 0.8, 0, -0.6, 0.8, 0, -0.6, 0.8, 0, -0.6, 0.8, 0],
  },
  {
    name: 'Sway',
    what: 'A second forward, then a second back',
    values: { pattern: 'to-and-fro', amounts: [1, -1], unit: 'seconds', attack: 10, at_end: 'turn' },
    course: [-0.8, 0.8, 0.8, 0.8, -0.8, -0.8, -0.8, 0.8, 0.8, 0.8, -0.8, -0.8],
  },
  {
    name: 'Scatter',
    what: 'Jumps at random, up to two seconds either way',
    values: { pattern: 'wander', amounts: [2], unit: 'seconds', attack: 0, at_end: 'turn' },
    course: [0.3, 0.3, 0.3, -0.8, -0.8, -0.8, 0.7, 0.7, 0.7, -0.3, -0.3, -0.3],
  },
  {
    name: 'Stammer',
    what: 'Each cue starts the same stretch again',
    values: { pattern: 'again' },
    course: [-0.8, 0, 0.8, -0.8, 0, 0.8, -0.8, 0, 0.8, -0.8, 0, 0.8],
  },
  {
    name: 'Dart',
    what: 'A few fast frames at each cue, then slower, so that nothing else moves',
    values: { pattern: 'dash', amounts: [6], attack: 4, rise: 'straight' },
    course: [-1, -0.3, -0.4, -0.5, 0.2, 0.1, 0, 0.7, 0.6, 0.5, 1, 0.9],
  },
]
/** Each pulse has a colour and a mark of its own, by its place in the list. */
const INKS = ['high', 'low', 'mid', 'tie-ink', 'slow']
const MARKS = ['M-4,7 L4,7 L0,0Z', 'M-3.5,0 H3.5 V7 H-3.5Z', 'M0,0 L4,3.5 L0,7 L-4,3.5Z', 'M-4,0 L4,0 L0,7Z']
/** The token of a pulse's colour, and the outline of its mark, eight pixels wide around 0 and seven high. */
export const inkOf = (place: number) => INKS[place % INKS.length]!
export const markOf = (place: number) => MARKS[place % MARKS.length]!
