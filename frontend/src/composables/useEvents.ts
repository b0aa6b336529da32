/** News of jobs, and of edits that changed elsewhere: asked for once for all tabs, by a shared worker. */
import { onScopeDispose } from 'vue'
import { follow, NEWS, type News } from '@/lib/news'
import { useEdit } from '@/stores/edit'
import { useLibrary } from '@/stores/library'
import { useNotices } from '@/stores/notices'

export function useEvents(): void {
  const library = useLibrary()
  const notices = useNotices()
  const edit = useEdit()

  function hear({ jobs, edits }: News): void {
    notices.gone('answer')
    for (const job of jobs) void library.onJob(job)
    const mine = edits.find((other) => other.edit === edit.id)
    if (mine) void edit.catchUp(mine.revision)
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
