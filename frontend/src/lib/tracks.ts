/** Points that are tracked in takes. */
import type { Take } from '@/api/client'
import type { Point } from './lying'

export type Track = NonNullable<Take['tracks']>[number]

/** Where a tracked point is in a source frame, straight between the points that are kept. */
export function trackedAt({ points }: Track, frame: number): Point {
  const after = points.findIndex((point) => point.frame >= frame)
  if (after === -1) return points.at(-1)!
  const [one, other] = [points[Math.max(0, after - 1)]!, points[after]!]
  const far = other.frame === one.frame ? 0 : (frame - one.frame) / (other.frame - one.frame)
  const part = Math.min(1, Math.max(0, far))
  return { x: one.x + part * (other.x - one.x), y: one.y + part * (other.y - one.y) }
}
