/** Small pictures of takes' frames for filmstrips, fetched as they are drawn and kept for all that draw them. */
import { frameOf } from '@/api/client'

const MOST = 1500

interface Thumb {
  image: HTMLImageElement
  ready: boolean
  waiting: Set<() => void>
}
const kept = new Map<string, Thumb>()

function fetched(key: string, address: string): Thumb {
  if (kept.size >= MOST) kept.clear()
  const found: Thumb = { image: new Image(), ready: false, waiting: new Set() }
  kept.set(key, found)
  found.image.src = address
  // Decoded away from the drawing, which would wait for it.
  found.image
    .decode()
    .then(() => {
      found.ready = true
      for (const redraw of found.waiting) redraw()
      found.waiting.clear()
    })
    // It may be there later.
    .catch(() => kept.delete(key))
  return found
}

export function useThumbs(loaded: () => void): {
  /** The picture of a frame once it is there; until then ``loaded`` is called when it comes. */
  thumb: (sha256: string, frame: number) => HTMLImageElement | null
} {
  function thumb(sha256: string, frame: number): HTMLImageElement | null {
    const key = `${sha256}:${frame}`
    const found = kept.get(key) ?? fetched(key, frameOf(sha256, frame))
    if (!found.ready) found.waiting.add(loaded)
    return found.ready ? found.image : null
  }
  return { thumb }
}
