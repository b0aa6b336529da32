/**
 * Pictures of takes from their frame packs: any frame at once, none decoded that is not asked for.
 *
 * A worker fetches and decodes. Bitmaps hold memory outside the script's: all takes share one budget,
 * and what was seen least recently is closed.
 */
import { Budget } from '@/lib/budget'
import type { Found, Wanted } from '@/lib/packWorker'

const BITMAP_BYTES = 96 << 20
const BYTES_PER_PIXEL = 4

const worker = new Worker(new URL('../lib/packWorker.ts', import.meta.url), { type: 'module' })
const asked = new Map<number, (bitmap: ImageBitmap | null) => void>()
const bitmaps = new Budget<ImageBitmap>(BITMAP_BYTES, (bitmap) => bitmap.close())
const decoding = new Map<string, Promise<ImageBitmap | null>>()
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

async function decode(key: string, sha256: string, frame: number): Promise<ImageBitmap | null> {
  const bitmap = await ask(sha256, frame)
  if (bitmap) bitmaps.set(key, bitmap, bitmap.width * bitmap.height * BYTES_PER_PIXEL)
  return bitmap
}

export const pictures = {
  /** The bitmap of a frame if it is decoded already. */
  ready: (sha256: string, frame: number) => bitmaps.get(`${sha256}:${frame}`) ?? null,

  /** The bitmap of a frame, decoded when need be; null when it cannot be had. */
  get(sha256: string, frame: number): Promise<ImageBitmap | null> {
    const key = `${sha256}:${frame}`
    const found = bitmaps.get(key)
    if (found) return Promise.resolve(found)
    let pending = decoding.get(key)
    if (!pending) {
      pending = decode(key, sha256, frame).finally(() => decoding.delete(key))
      decoding.set(key, pending)
    }
    return pending
  },
}
