/** News of jobs, and of edits that changed elsewhere: asked for once for all tabs, by a shared worker. */
import { onScopeDispose } from 'vue'
import { follow, NEWS, type News } from '@/lib/news'
import { useEdit } from '@/stores/edit'
import { useLibrary } from '@/stores/library'

export function useEvents(edit: number): void {
  const library = useLibrary()
  const store = useEdit()

  function hear({ jobs, edits }: News): void {
    for (const job of jobs) void library.onJob(job)
    const mine = edits.find((other) => other.edit === edit)
    if (mine) void store.catchUp(mine.revision)
  }

  if (!('SharedWorker' in window)) {
    const { stop } = follow(hear)
    onScopeDispose(stop)
    return
  }
  const channel = new BroadcastChannel(NEWS)
  channel.onmessage = ({ data }: MessageEvent<News>) => hear(data)
  new SharedWorker(new URL('../lib/newsWorker.ts', import.meta.url), { type: 'module' })
  onScopeDispose(() => channel.close())
}
