/**
 * Pictures of a take from its frame pack: any frame at once, none decoded that is not asked for.
 *
 * Frames are fetched in ranges of CHUNK while playing and one by one for thumbnails. Bitmaps
 * live on the graphics side, so old ones are closed.
 */
import { partOf } from '@/api/client'

const CHUNK = 60
const MOST_BITMAPS = 96
const MOST_CHUNKS = 24

class Pack {
  private index: Promise<Uint32Array>
  private chunks = new Map<number, Promise<{ start: number; bytes: ArrayBuffer }>>()
  private bitmaps = new Map<number, ImageBitmap>()
  private decoding = new Map<number, Promise<ImageBitmap | null>>()

  constructor(private sha256: string) {
    this.index = fetch(partOf(sha256, 'index')).then(async (answer) => {
      if (!answer.ok) throw new Error('no index')
      return new Uint32Array(await answer.arrayBuffer())
    })
    this.index.catch(() => packs.delete(sha256))
  }

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
    try {
      const blob = await this.jpeg(frame)
      const bitmap = await createImageBitmap(blob)
      this.bitmaps.set(frame, bitmap)
      for (const [old, stale] of this.bitmaps) {
        if (this.bitmaps.size <= MOST_BITMAPS) break
        this.bitmaps.delete(old)
        stale.close()
      }
      return bitmap
    } catch {
      return null
    }
  }

  /** A frame as a picture of its own, for thumbnails that stay: fetched alone, cached by the browser. */
  async thumbnail(frame: number): Promise<ImageBitmap | null> {
    try {
      const [begin, end] = await this.place(frame)
      const answer = await fetch(partOf(this.sha256, 'pack'), {
        headers: { Range: `bytes=${begin}-${end - 1}` },
      })
      return await createImageBitmap(await answer.blob())
    } catch {
      return null
    }
  }

  private async place(frame: number): Promise<[number, number]> {
    const index = await this.index
    return [index[2 * frame] ?? 0, index[2 * frame + 1] ?? 0]
  }

  private async jpeg(frame: number): Promise<Blob> {
    const [begin, end] = await this.place(frame)
    const { start, bytes } = await this.chunk(Math.floor(frame / CHUNK))
    return new Blob([bytes.slice(begin - start, end - start)], { type: 'image/jpeg' })
  }

  private chunk(number: number): Promise<{ start: number; bytes: ArrayBuffer }> {
    let chunk = this.chunks.get(number)
    if (!chunk) {
      chunk = this.fetchChunk(number)
      chunk.catch(() => this.chunks.delete(number))
      this.chunks.set(number, chunk)
      const oldest = this.chunks.keys().next().value
      if (this.chunks.size > MOST_CHUNKS && oldest !== undefined) this.chunks.delete(oldest)
    }
    return chunk
  }

  private async fetchChunk(number: number): Promise<{ start: number; bytes: ArrayBuffer }> {
    const index = await this.index
    const last = Math.min(index.length / 2, (number + 1) * CHUNK) - 1
    const start = index[2 * number * CHUNK] ?? 0
    const end = index[2 * last + 1] ?? 0
    const answer = await fetch(partOf(this.sha256, 'pack'), {
      headers: { Range: `bytes=${start}-${end - 1}` },
    })
    if (answer.status !== 206) throw new Error('no range')
    return { start, bytes: await answer.arrayBuffer() }
  }
}

const packs = new Map<string, Pack>()

export function packOf(sha256: string): Pack {
  let pack = packs.get(sha256)
  if (!pack) packs.set(sha256, (pack = new Pack(sha256)))
  return pack
}
