/** How two pictures of a pack move to one another, as the server tells it (media/packflow.py). */
export interface Field<T> {
  width: number
  height: number
  values: T
}
export interface PairFlow {
  /** Four half floats a place, in pixels of the pack: across and down to the second picture, and back. */
  motion: Field<Uint16Array>
  /** How far that is to be trusted, 0 to 255 a place. */
  trust: Field<Uint8Array>
}
/** Two pictures of two scenes: nothing is between them. */
export const TWO_SCENES = null

const SIZES = 4
const HALVES = 4

export function pairFlow(bytes: ArrayBuffer): PairFlow | typeof TWO_SCENES {
  if (!bytes.byteLength) return TWO_SCENES
  const [width, height, fineWidth, fineHeight] = new Uint16Array(bytes, 0, SIZES) as unknown as [
    number,
    number,
    number,
    number,
  ]
  const motion = new Uint16Array(bytes, 2 * SIZES, HALVES * width * height)
  const trust = new Uint8Array(bytes, 2 * SIZES + motion.byteLength, fineWidth * fineHeight)
  return {
    motion: { width, height, values: motion },
    trust: { width: fineWidth, height: fineHeight, values: trust },
  }
}
