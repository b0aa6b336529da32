/**
 * Fetches and decodes pictures of frame packs, away from the main thread, which has a screen to paint.
 *
 * Frames are fetched in ranges of CHUNK.
 */
const CHUNK = 60
const MOST_CHUNKS = 24

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

class PackFile {
  private index: Promise<Uint32Array>
  private chunks = new Map<number, Promise<Range>>()

  constructor(private base: string) {
    this.index = fetch(`${base}/index`).then(async (answer) => {
      if (!answer.ok) throw new Error('no index')
      return new Uint32Array(await answer.arrayBuffer())
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

const files = new Map<string, PackFile>()

self.onmessage = async ({ data }: MessageEvent<Wanted>) => {
  let file = files.get(data.sha256)
  if (!file) files.set(data.sha256, (file = new PackFile(`/api/assets/${data.sha256}`)))
  const bitmap = await file.decode(data.frame).catch(() => null)
  // A file that could not be read may be readable later: begin anew then.
  if (!bitmap) files.delete(data.sha256)
  self.postMessage({ id: data.id, bitmap } satisfies Found, bitmap ? { transfer: [bitmap] } : {})
}
