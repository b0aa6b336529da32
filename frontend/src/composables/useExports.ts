/** The exports of the edit, the newest first; that one of them is done is told wherever one is. */
import { computed, watch } from 'vue'
import { exportSaid } from '@/lib/exports'
import { useEdit } from '@/stores/edit'
import { isActive, useLibrary } from '@/stores/library'
import { useNotices } from '@/stores/notices'

export function useExports(isOpen: () => boolean) {
  const edit = useEdit()
  const library = useLibrary()
  const notices = useNotices()
  const jobs = computed(() =>
    library.jobs.filter(({ kind, args }) => kind === 'export' && args.edit === edit.id),
  )
  const active = computed(() => jobs.value.filter(isActive))
  watch(active, (now, before) => {
    if (isOpen()) return
    const ids = new Set(now.map(({ id }) => id))
    for (const { id } of before) {
      const ended = ids.has(id) ? undefined : jobs.value.find((job) => job.id === id)
      if (ended?.state === 'done') notices.news(`Export done: ${exportSaid(ended)}.`)
      else if (ended?.state === 'failed') notices.news(`Export failed: ${exportSaid(ended)}.`)
    }
  })
  return { jobs, active }
}
