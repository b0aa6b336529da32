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
  /** The part of the picture in which the way there and back does not lead home, 0 to 1. */
  astray: number
}
/** Two pictures of two scenes: nothing is between them. */
export const TWO_SCENES = null

const SIZES = 4
const SIZES_BYTES = 2 * SIZES
const BEGIN = SIZES_BYTES + 4
const HALVES = 4

export function pairFlow(bytes: ArrayBuffer): PairFlow | typeof TWO_SCENES {
  if (!bytes.byteLength) return TWO_SCENES
  const [width = 0, height = 0, fineWidth = 0, fineHeight = 0] = new Uint16Array(bytes, 0, SIZES)
  const motion = new Uint16Array(bytes, BEGIN, HALVES * width * height)
  const trust = new Uint8Array(bytes, BEGIN + motion.byteLength, fineWidth * fineHeight)
  return {
    motion: { width, height, values: motion },
    trust: { width: fineWidth, height: fineHeight, values: trust },
    astray: new Float32Array(bytes, SIZES_BYTES, 1)[0]!,
  }
}
