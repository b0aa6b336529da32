/**
 * Pictures of a take from its frame pack: any frame at once, none decoded that is not asked for.
 *
 * A worker fetches and decodes. Bitmaps hold memory outside the script's, so old ones are closed.
 */
import type { Found, Wanted } from '@/lib/packWorker'

const MOST_BITMAPS = 96

const worker = new Worker(new URL('../lib/packWorker.ts', import.meta.url), { type: 'module' })
const asked = new Map<number, (bitmap: ImageBitmap | null) => void>()
let count = 0

worker.onmessage = ({ data }: MessageEvent<Found>) => {
  asked.get(data.id)?.(data.bitmap)
  asked.delete(data.id)
}

function ask(sha256: string, frame: number): Promise<ImageBitmap | null> {
  return new Promise((resolve) => {
    const id = ++count
    asked.set(id, resolve)
    worker.postMessage({ id, sha256, frame } satisfies Wanted)
  })
}

class Pack {
  private bitmaps = new Map<number, ImageBitmap>()
  private decoding = new Map<number, Promise<ImageBitmap | null>>()

  constructor(private sha256: string) {}

  /** The bitmap of a frame if it is decoded already. */
  ready(frame: number): ImageBitmap | null {
    const bitmap = this.bitmaps.get(frame)
    if (!bitmap) return null
    this.bitmaps.delete(frame)
    this.bitmaps.set(frame, bitmap)
    return bitmap
  }

  /** The bitmap of a frame, decoded when need be; null when it cannot be had. */
  get(frame: number): Promise<ImageBitmap | null> {
    const ready = this.ready(frame)
    if (ready) return Promise.resolve(ready)
    let pending = this.decoding.get(frame)
    if (!pending) {
      pending = this.decode(frame).finally(() => this.decoding.delete(frame))
      this.decoding.set(frame, pending)
    }
    return pending
  }

  private async decode(frame: number): Promise<ImageBitmap | null> {
    const bitmap = await ask(this.sha256, frame)
    if (!bitmap) return null
    this.bitmaps.set(frame, bitmap)
    for (const [old, stale] of this.bitmaps) {
      if (this.bitmaps.size <= MOST_BITMAPS) break
      this.bitmaps.delete(old)
      stale.close()
    }
    return bitmap
  }
}

const packs = new Map<string, Pack>()

export function packOf(sha256: string): Pack {
  let pack = packs.get(sha256)
  if (!pack) packs.set(sha256, (pack = new Pack(sha256)))
  return pack
}
