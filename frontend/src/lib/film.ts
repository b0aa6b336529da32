/** What rails in source time draw of a take: a strip of its pictures, and lanes of what was measured in them. */
import type { Axis } from '@/lib/axis'

export interface Band {
  left: number
  right: number
  top: number
  bottom: number
}

const within = (frame: number, frames: number) => Math.min(frames - 1, Math.max(0, Math.floor(frame)))

/**
 * Pictures side by side, each of the frame in its middle; ``aspect`` is their width by their height, ``gap``
 * what lies between two, in pixels.
 */
export function drawStrip(
  context: CanvasRenderingContext2D,
  axis: Axis,
  { left, right, top, bottom }: Band,
  { frames, aspect, gap }: { frames: number; aspect: number; gap: number },
  pictureOf: (frame: number) => ImageBitmap | null,
): void {
  const step = (bottom - top) * aspect
  for (let x = left; x < right; x += step) {
    const picture = pictureOf(within(axis.at(x + step / 2), frames))
    if (picture) context.drawImage(picture, x, top, step - gap, bottom - top)
  }
}

/** The greatest value at each pixel, 0 to 1, as an area in the context's colour. */
export function drawGreatest(
  context: CanvasRenderingContext2D,
  axis: Axis,
  { left, right, top, bottom }: Band,
  frames: number,
  valueOf: (frame: number) => number,
): void {
  context.beginPath()
  context.moveTo(left, bottom)
  for (let x = left; x <= right; x += 1) {
    const begin = Math.max(0, Math.floor(axis.at(x)))
    const end = Math.min(frames, Math.max(begin + 1, Math.floor(axis.at(x + 1))))
    let value = 0
    for (let frame = begin; frame < end; frame += 1) value = Math.max(value, valueOf(frame))
    context.lineTo(x, bottom - Math.min(1, value) * (bottom - top))
  }
  context.lineTo(right, bottom)
  context.fill()
}
