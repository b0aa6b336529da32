/** Marking the source frame that is looked at. */
import { computed } from 'vue'
import type { MomentKind } from '@/api/client'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'

export function useMarking() {
  const edit = useEdit()
  const view = useView()
  /** The moment on the frame that is looked at. */
  const marked = computed(() => view.take?.moments?.find((moment) => moment.frame === view.takeFrame))

  /** Mark the frame, or make the moment that is there another kind. */
  function mark(kind: MomentKind): void {
    const take = view.take
    if (!take) return
    const command = marked.value
      ? ({ do: 'change-moment', take: take.id, moment: marked.value.id, kind } as const)
      : ({ do: 'add-moment', take: take.id, frame: view.takeFrame, kind } as const)
    void edit.run(command)
  }
  return { marked, mark }
}
