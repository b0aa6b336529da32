/** Laid sounds in words: those that come along, what each can be told, levels in dB. */
import type { Command, Edit } from '@/api/client'
import { fileName } from '@/lib/names'

export type Sound = NonNullable<Edit['sounds']>[number]
export type SoundChange = Omit<Extract<Command, { do: 'change-sound' }>, 'do' | 'sound'>
export type Made = Extract<Sound['what'], { kind: 'made' }>
export type MadeName = Made['name']
export type Duck = NonNullable<Sound['duck']>

export interface MadeKind {
  name: MadeName
  text: string
  what: string
  /** How long it is where nothing else is said. */
  length: number
  unit: NonNullable<Made['unit']>
}
export const MADE: MadeKind[] = [
  { name: 'boom', text: 'Boom', what: 'A low blow on the hit', length: 1.8, unit: 'seconds' },
  { name: 'drop', text: 'Sub drop', what: 'A bass tone that sinks', length: 2, unit: 'seconds' },
  { name: 'click', text: 'Click', what: 'A short tick', length: 0.08, unit: 'seconds' },
  {
    name: 'whoosh',
    text: 'Whoosh',
    what: 'Rises through the fast run, peaks on the hit',
    length: 1,
    unit: 'seconds',
  },
  { name: 'riser', text: 'Riser', what: 'Rises and breaks off on the cue', length: 4, unit: 'beats' },
  {
    name: 'swell',
    text: 'Reverse swell',
    what: 'Grows ever faster, and stops on the cue',
    length: 2,
    unit: 'beats',
  },
]
const RISING: MadeName[] = ['whoosh', 'riser', 'swell']
export const isRising = ({ what }: Sound) => what.kind === 'made' && RISING.includes(what.name)
export const soundName = ({ what }: Sound) =>
  what.kind === 'made' ? MADE.find(({ name }) => name === what.name)!.text : fileName(what.media.name)

export const QUIETEST_DB = -60
/** A level as it is kept, 1 as recorded, in dB; silence is the quietest that can be set. */
export const inDecibels = (level: number) =>
  level > 0 ? Math.max(QUIETEST_DB, 20 * Math.log10(level)) : QUIETEST_DB
/** And back; the quietest is silence. */
export const fromDecibels = (level: number) => (level <= QUIETEST_DB ? 0 : 10 ** (level / 20))
