/** Clips in a part of the frame. */
import type { Clip } from '@/api/client'

type Told = NonNullable<Clip['inset']>
export type Inset = Required<Told>

const USUAL: Inset = {
  ...{ x: 0.76, y: 0.26, width: 0.4, height: 0.4, shape: 'box' },
  ...{ border: 0, border_colour: '#ffffff', fade: 6, keying: null },
}
/** What is known of a clip's inset, with the usual values for the rest. */
export const insetOf = (clip: Clip): Inset => ({ ...USUAL, ...clip.inset })
