/**
 * Fetches and decodes pictures of frame packs, away from the main thread, which has a screen to paint.
 *
 * Frames are fetched in ranges of CHUNK.
 */
import { Budget } from './budget'

const CHUNK = 60
const CHUNK_BYTES = 48 << 20
/** An index has 8 bytes a frame: two hours at 60 fps are 3.5 MB. */
const INDEX_BYTES = 24 << 20

export interface Wanted {
  id: number
  sha256: string
  frame: number
}
export interface Found {
  id: number
  bitmap: ImageBitmap | null
}

type Range = { start: number; bytes: ArrayBuffer }

const chunks = new Budget<Range>(CHUNK_BYTES)
const files = new Budget<PackFile>(INDEX_BYTES)

class PackFile {
  private index: Promise<Uint32Array>
  private fetching = new Map<number, Promise<Range>>()

  constructor(private base: string) {
    this.index = fetch(`${base}/index`).then(async (answer) => {
      if (!answer.ok) throw new Error('no index')
      const index = new Uint32Array(await answer.arrayBuffer())
      files.set(base, this, index.byteLength)
      return index
    })
  }

  async decode(frame: number): Promise<ImageBitmap> {
    const index = await this.index
    const [begin, end] = [index[2 * frame] ?? 0, index[2 * frame + 1] ?? 0]
    const { start, bytes } = await this.chunk(Math.floor(frame / CHUNK))
    const jpeg = new Uint8Array(bytes, begin - start, end - begin)
    return createImageBitmap(new Blob([jpeg], { type: 'image/jpeg' }))
  }

  private chunk(number: number): Promise<Range> {
    const key = `${this.base}:${number}`
    const kept = chunks.get(key)
    if (kept) return Promise.resolve(kept)
    let chunk = this.fetching.get(number)
    if (!chunk) {
      chunk = this.fetchChunk(number).then((range) => {
        chunks.set(key, range, range.bytes.byteLength)
        return range
      })
      this.fetching.set(number, chunk)
      void chunk.catch(() => undefined).then(() => this.fetching.delete(number))
    }
    return chunk
  }

  private async fetchChunk(number: number): Promise<Range> {
    const index = await this.index
    const last = Math.min(index.length / 2, (number + 1) * CHUNK) - 1
    const start = index[2 * number * CHUNK] ?? 0
    const end = index[2 * last + 1] ?? 0
    const answer = await fetch(`${this.base}/pack`, { headers: { Range: `bytes=${start}-${end - 1}` } })
    if (answer.status !== 206) throw new Error('no range')
    return { start, bytes: await answer.arrayBuffer() }
  }
}

self.onmessage = async ({ data }: MessageEvent<Wanted>) => {
  const base = `/api/assets/${data.sha256}`
  let file = files.get(base)
  if (!file) files.set(base, (file = new PackFile(base)), 0)
  const bitmap = await file.decode(data.frame).catch(() => null)
  // A file that could not be read may be readable later: begin anew then.
  if (!bitmap) files.forget(base)
  self.postMessage({ id: data.id, bitmap } satisfies Found, bitmap ? { transfer: [bitmap] } : {})
}
