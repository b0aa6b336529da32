/** Accents in words: kinds, what each can be told, where they stand. */
import type { Command, Edit } from '@/api/client'
import { counted } from '@/lib/format'

export type Accent = NonNullable<Edit['accents']>[number]
export type What = Accent['what']
export type AccentKind = What['kind']
export type Anchor = Accent['at']
export type AccentChange = Omit<Extract<Command, { do: 'change-accent' }>, 'do' | 'accent'>

export const KINDS: { kind: AccentKind; name: string; what: string }[] = [
  { kind: 'flash', name: 'Flash', what: 'Light over the picture, gone after some frames' },
  { kind: 'shake', name: 'Shake', what: 'The frame shakes and comes to rest' },
  { kind: 'punch', name: 'Punch', what: 'The frame grows at once and comes back' },
  { kind: 'trail', name: 'Trail', what: 'Earlier pictures stay for a while' },
  { kind: 'zoom-blur', name: 'Zoom blur', what: 'Blurred towards a point' },
  { kind: 'dim', name: 'Dim', what: 'Light goes down before the hit, and is back on it' },
  { kind: 'drain', name: 'Drain', what: 'Colour goes down before the hit, and is back on it' },
  { kind: 'tint', name: 'Tint', what: 'A colour over the picture' },
  { kind: 'fade', name: 'Fade', what: 'Into black, or into another colour' },
  { kind: 'letterbox', name: 'Letterbox', what: 'Black bars close in, and open again' },
  { kind: 'strobe', name: 'Strobe', what: 'The picture and a colour in turn' },
]
/** What it is done to: light, colour and darkness, or place; each has its fill and its line. */
const INKS = {
  light: ['#b08a3c', '#e8c987'],
  dark: ['#46606e', '#8fb0bf'],
  place: ['#9a5038', '#d89c86'],
} as const
const DARK: AccentKind[] = ['dim', 'drain', 'fade', 'letterbox', 'strobe']
const PLACE: AccentKind[] = ['shake', 'punch', 'trail', 'zoom-blur']
export const inksOf = (kind: AccentKind) =>
  INKS[DARK.includes(kind) ? 'dark' : PLACE.includes(kind) ? 'place' : 'light']
export const accentName = (kind: AccentKind) => KINDS.find((each) => each.kind === kind)!.name

/** A number that a kind can be told: by its name there, in parts of `scale` on the screen. */
export interface AccentField {
  name: string
  label: string
  min: number
  max: number
  step: number
  unit?: string
  scale?: number
}
const part = (label: string, max = 1, min = 0.01): AccentField => ({
  ...{ name: 'amount', label, min, max, step: 0.01, unit: '%', scale: 100 },
})
/** The numbers of each kind; the first is the one that is changed most. */
export const FIELDS: Record<AccentKind, AccentField[]> = {
  flash: [{ name: 'light', label: 'Light, L*', min: 1, max: 100, step: 1 }],
  fade: [part('Amount')],
  tint: [part('Amount')],
  dim: [part('Amount')],
  drain: [part('Amount')],
  shake: [
    { ...part('Distance', 0.25, 0), step: 0.002 },
    { name: 'turn', label: 'Turn', min: 0, max: 30, step: 0.1, unit: '°' },
    { name: 'rate', label: 'Swings per second', min: 1, max: 30, step: 0.5 },
  ],
  punch: [part('Scale', 1, -0.5)],
  trail: [
    { name: 'copies', label: 'Copies', min: 1, max: 7, step: 1 },
    { name: 'spacing', label: 'Spacing, frames', min: 1, max: 6, step: 1 },
    { name: 'decay', label: 'Decay', min: 0.1, max: 1, step: 0.01, unit: '%', scale: 100 },
  ],
  'zoom-blur': [
    part('Amount', 0.5),
    { name: 'x', label: 'Across', min: 0, max: 1, step: 0.01, unit: '%', scale: 100 },
    { name: 'y', label: 'Down', min: 0, max: 1, step: 0.01, unit: '%', scale: 100 },
  ],
  letterbox: [part('Coverage', 0.9)],
  strobe: [{ name: 'frames', label: 'Frames each', min: 1, max: 60, step: 1 }, part('Amount')],
}

type Blend = NonNullable<Extract<What, { kind: 'tint' }>['blend']>
export const BLENDS: { value: Blend; text: string }[] = [
  { value: 'soft-light', text: 'soft light' },
  { value: 'color', text: 'colour' },
  { value: 'multiply', text: 'multiply' },
  { value: 'screen', text: 'screen' },
  { value: 'overlay', text: 'overlay' },
  { value: 'hard-light', text: 'hard light' },
  { value: 'darken', text: 'darken' },
  { value: 'lighten', text: 'lighten' },
  { value: 'color-dodge', text: 'colour dodge' },
  { value: 'color-burn', text: 'colour burn' },
  { value: 'difference', text: 'difference' },
  { value: 'exclusion', text: 'exclusion' },
  { value: 'normal', text: 'normal' },
]
/** Those by which a trail can be seen. */
export const TRAIL_BLENDS = BLENDS.filter(({ value }) =>
  ['normal', 'lighten', 'screen', 'darken'].includes(value),
)
export const PHASES = [
  { value: 'before', text: 'Before' },
  { value: 'on', text: 'On' },
  { value: 'after', text: 'After' },
] as const
export const RUNS = [
  { value: 'any', text: 'always' },
  { value: 'fast', text: 'while it runs fast' },
  { value: 'slow', text: 'while it runs slow' },
] as const

/** Whether it lies in stretches, not at single frames. */
export const isStretch = ({ at }: Pick<Accent, 'at'>) =>
  at.to === 'range' || (at.to === 'ties' && (at.side ?? 'moment') !== 'moment')

const SIDES = { moment: 'on', into: 'up to', 'out of': 'after' }
/** Where it stands beside a hit, in words. */
export const sideSaid = (side: keyof typeof SIDES | undefined) => `${SIDES[side ?? 'moment']} the hit`
/** Where it stands, in words. */
export function placeSaid(at: Anchor, selections: { id: string; name: string }[]): string {
  switch (at.to) {
    case 'frame':
      return `on frame ${at.n}`
    case 'cues': {
      const kept = selections.find(({ id }) => id === at.selection)
      return `on ${kept ? kept.name : counted(at.cues?.length ?? 0, 'cue')}`
    }
    case 'ties':
      return `${SIDES[at.side ?? 'moment']} ${counted(at.ties.length, 'tie')}`
    case 'cuts':
      return `on ${counted(at.clips.length, 'cut')}`
    case 'range':
      return 'in a range'
  }
}

/** Whether two places are the same one, or the one is among those of the other. */
export function standsAt(at: Anchor, place: Anchor): boolean {
  if (at.to === 'ties' && place.to === 'ties')
    return place.ties.some((tie) => at.ties.some(({ clip, pin }) => clip === tie.clip && pin === tie.pin))
  if (at.to === 'cues' && place.to === 'cues')
    return (place.cues ?? []).some((cue) => (at.cues ?? []).includes(cue))
  if (at.to === 'cuts' && place.to === 'cuts') return place.clips.some((clip) => at.clips.includes(clip))
  return at.to === 'range' && place.to === 'range'
}
