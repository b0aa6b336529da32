/** Sends a file in pieces. What breaks off goes on where it was, also after the page was loaded anew. */
import { api, Failure, json, take, UNREACHABLE, type Asset, type Problem, type Schemas } from '@/api/client'

const PATIENCE_SECONDS = [0.5, 1, 2, 4, 8, 15]

/**
 * Send a file.
 *
 * @param progress told the part that is there, 0 to 1
 * @param signal aborted when the person gives up; what came is then thrown away
 * @returns the asset, or nothing when the person gave up
 */
export async function send(
  file: File,
  kind: Asset['kind'],
  progress: (part: number) => void,
  signal: AbortSignal,
): Promise<Asset | undefined> {
  const body = { kind, name: file.name, size: file.size, changed: file.lastModified }
  let failed = 0
  while (!signal.aborted) {
    try {
      let state = await take(api.POST('/api/assets/uploads', { body, signal }))
      while (state.received < file.size) {
        progress(state.received / file.size)
        state = await sendPiece(file, body, state, signal)
        failed = 0
      }
      return await take(api.POST('/api/assets/uploads/finish', { body, signal }))
    } catch (failure) {
      if (!(failure instanceof Failure)) throw failure
      if (signal.aborted) break
      const patience = PATIENCE_SECONDS[failed++]
      if (failure.problem.code !== UNREACHABLE.code || patience === undefined) throw failure
      await new Promise((go) => setTimeout(go, patience * 1000))
    }
  }
  await take(api.DELETE('/api/assets/uploads', { body })).catch(() => undefined)
}

async function sendPiece(
  file: File,
  upload: Schemas['UploadBody'],
  { received, piece }: Schemas['UploadState'],
  signal: AbortSignal,
): Promise<Schemas['UploadState']> {
  const query = new URLSearchParams({ ...upload, at: received } as unknown as Record<string, string>)
  const content = await file
    .slice(received, received + piece)
    .arrayBuffer()
    .catch(() => null)
  if (!content) throw new Failure(unreadable(file))
  return json(`/api/assets/uploads?${query}`, { method: 'PUT', body: content, signal })
}

function unreadable(file: File): Problem {
  return {
    code: 'file-changed',
    what: 'The browser can no longer read the file.',
    where: file.name,
    remedy: 'It was moved, deleted or changed: put it in again.',
  }
}
