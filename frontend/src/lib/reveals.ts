/** Shapes through which a clip is revealed. */
import type { Clip } from '@/api/client'

type Told = NonNullable<NonNullable<Clip['overlap']>['reveal']>
export type Reveal = Required<Told>

const USUAL: Reveal = {
  ...{ shape: 'ellipse', x: 0.5, y: 0.5, width: 0.3, height: 0.4, corners: [] },
  ...{ closed: true, grow: 'ease-in', track: null },
}
/** What is known of a clip's reveal, with the usual values for the rest. */
export const revealOf = (clip: Clip): Reveal => ({ ...USUAL, ...clip.overlap?.reveal })

export const SHAPES: { value: Reveal['shape']; text: string }[] = [
  { value: 'ellipse', text: 'Ellipse' },
  { value: 'box', text: 'Box' },
  { value: 'polygon', text: 'Polygon' },
]
/** A polygon to begin with: a diamond about its point. */
const DIAMOND = [
  { x: 0, y: -0.25 },
  { x: 0.14, y: 0 },
  { x: 0, y: 0.25 },
  { x: -0.14, y: 0 },
]
/** The same reveal through another shape; a polygon begins as a diamond. */
export const inShape = (reveal: Reveal, shape: Reveal['shape']): Reveal => ({
  ...reveal,
  shape,
  corners: shape === 'polygon' ? DIAMOND : [],
})

/** The same with a corner more, in the middle of its longest side. */
export function withCorner(reveal: Reveal): Reveal {
  const { corners } = reveal
  const next = (at: number) => corners[(at + 1) % corners.length]!
  const lengths = corners.map(({ x, y }, at) => Math.hypot(next(at).x - x, next(at).y - y))
  const at = lengths.indexOf(Math.max(...lengths))
  const [one, other] = [corners[at]!, next(at)]
  const middle = { x: (one.x + other.x) / 2, y: (one.y + other.y) / 2 }
  return { ...reveal, corners: [...corners.slice(0, at + 1), middle, ...corners.slice(at + 1)] }
}
