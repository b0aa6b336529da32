/** Small pictures of takes' frames for filmstrips, fetched as they are drawn and kept for all that draw them. */
import { frameOf } from '@/api/client'
import { AGAIN_MS } from '@/lib/news'

const MOST = 1500

/** As high as any strip draws them: scaling a large one at every drawing would cost more than all the rest. */
const HEIGHT = 96

interface Thumb {
  picture: ImageBitmap | null
  waiting: Set<() => void>
}
const kept = new Map<string, Thumb>()

function fetched(key: string, address: string): Thumb {
  if (kept.size >= MOST) kept.clear()
  const found: Thumb = { picture: null, waiting: new Set() }
  kept.set(key, found)
  // Decoded away from the drawing, which would wait for it.
  fetch(address)
    .then((answer) => answer.blob())
    .then((blob) => createImageBitmap(blob, { resizeHeight: HEIGHT * devicePixelRatio }))
    .then((picture) => {
      found.picture = picture
      for (const redraw of found.waiting) redraw()
      found.waiting.clear()
    })
    // It may be there later; whoever draws meanwhile need not ask each time.
    .catch(() => setTimeout(() => kept.delete(key), AGAIN_MS))
  return found
}

export function useThumbs(loaded: () => void): {
  /** The picture of a frame once it is there; until then ``loaded`` is called when it comes. */
  thumb: (sha256: string, frame: number) => ImageBitmap | null
} {
  function thumb(sha256: string, frame: number): ImageBitmap | null {
    const key = `${sha256}:${frame}`
    const found = kept.get(key) ?? fetched(key, frameOf(sha256, frame))
    if (!found.picture) found.waiting.add(loaded)
    return found.picture
  }
  return { thumb }
}
