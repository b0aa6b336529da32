/** The tab's one stream of events: jobs that changed, and edits that changed elsewhere. */
import { onScopeDispose } from 'vue'
import type { Job } from '@/api/client'
import { useEdit } from '@/stores/edit'
import { useLibrary } from '@/stores/library'

export function useEvents(edit: number): void {
  const library = useLibrary()
  const store = useEdit()
  const stream = new EventSource(`/api/events?edit=${edit}`)
  stream.addEventListener('job', (event) => void library.onJob(JSON.parse(event.data as string) as Job))
  stream.addEventListener('edit', (event) => void store.catchUp(Number(event.data)))
  onScopeDispose(() => stream.close())
}
