/** Small pictures of a take's frames for a filmstrip, fetched as they are drawn. */
import { frameOf } from '@/api/client'

const MOST = 600

export function useThumbs(loaded: () => void): {
  /** The picture of a frame once it is there. */
  thumb: (sha256: string, frame: number) => HTMLImageElement | null
} {
  const kept = new Map<string, HTMLImageElement>()

  function thumb(sha256: string, frame: number): HTMLImageElement | null {
    const key = `${sha256}:${frame}`
    let image = kept.get(key)
    if (!image) {
      if (kept.size >= MOST) kept.clear()
      image = new Image()
      image.onload = loaded
      // It may be there later.
      image.onerror = () => kept.delete(key)
      image.src = frameOf(sha256, frame)
      kept.set(key, image)
    }
    return image.complete && image.naturalWidth ? image : null
  }
  return { thumb }
}
