/** A moment moved to another source frame, by dragging or by keys; the picture follows it. */
import { useHandleKeys } from '@/composables/useHandleKeys'
import type { Moment } from '@/api/client'
import { drag } from '@/lib/drag'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'

const FAR_FRAMES = 10

export function useMomentMoves(sourceAt: (event: PointerEvent) => number): {
  dragMoment: (event: PointerEvent, moment: Moment) => void
  momentKeys: (event: KeyboardEvent, moment: Moment, remove: () => void) => void
} {
  const edit = useEdit()
  const handleKeys = useHandleKeys()
  const view = useView()

  const move = (moment: Moment, frame: number) =>
    ({ do: 'change-moment', take: view.take?.id ?? '', moment: moment.id, frame }) as const

  function dragMoment(event: PointerEvent, moment: Moment): void {
    const last = (view.take?.frames ?? 1) - 1
    let frame = moment.frame
    drag(
      event,
      (at) => {
        frame = Math.max(0, Math.min(last, Math.round(sourceAt(at))))
        view.lookAt(frame)
        void edit.dryRun(move(moment, frame))
      },
      (moved) => moved && void edit.run(move(moment, frame)),
    )
  }

  function momentKeys(event: KeyboardEvent, moment: Moment, remove: () => void): void {
    handleKeys(event, {
      step: (by, far) => {
        const frame = moment.frame + by * (far ? FAR_FRAMES : 1)
        view.lookAt(frame)
        void edit.run(move(moment, frame))
      },
      remove,
    })
  }
  return { dragMoment, momentKeys }
}
