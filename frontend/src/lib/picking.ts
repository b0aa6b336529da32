/** The colour of a spot of a picture. */
import type { Point } from './lying'

/** Pixels to each side that are taken together: one alone may be noise. */
const AROUND = 2

/** The mean colour about a point, in parts of the picture, in hexadecimal; null outside of it. */
export function colourAt(bitmap: ImageBitmap, { x, y }: Point): string | null {
  if (!(x >= 0 && x < 1 && y >= 0 && y < 1)) return null
  const side = 2 * AROUND + 1
  const context = new OffscreenCanvas(side, side).getContext('2d')!
  const [left, top] = [Math.floor(x * bitmap.width) - AROUND, Math.floor(y * bitmap.height) - AROUND]
  context.drawImage(bitmap, left, top, side, side, 0, 0, side, side)
  const { data } = context.getImageData(0, 0, side, side)
  const sum = [0, 0, 0]
  let count = 0
  for (let at = 0; at < data.length; at += 4) {
    if (!data[at + 3]) continue // beyond the edge
    sum.forEach((_, channel) => (sum[channel]! += data[at + channel]!))
    count += 1
  }
  const hex = (total: number) =>
    Math.round(total / Math.max(1, count))
      .toString(16)
      .padStart(2, '0')
  return `#${sum.map(hex).join('')}`
}
