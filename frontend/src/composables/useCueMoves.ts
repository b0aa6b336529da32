/** Cues moved, nudged, renamed, merged and removed: by dragging and by keys, one or many at once. */
import { useHandleKeys } from '@/composables/useHandleKeys'
import type { CueKind } from '@/api/client'
import { drag } from '@/lib/drag'
import { CUE_KINDS } from '@/lib/terms'
import { useEdit, type PlacedCue } from '@/stores/edit'
import { useView } from '@/stores/view'

const FINE_SECONDS = 0.001
const BEATS: CueKind[] = ['beat', 'downbeat']

export function useCueMoves(timeAt: (event: PointerEvent) => number) {
  const edit = useEdit()
  const handleKeys = useHandleKeys()
  const view = useView()

  const selected = () => view.selectedCues.flatMap((id) => edit.cueById.get(id) ?? [])

  function select(cue: PlacedCue, add: boolean): void {
    const held = view.selectedCues
    if (!add) {
      if (!held.includes(cue.id)) view.select({ kind: 'cues', cues: [cue.id] })
      return
    }
    const cues = held.includes(cue.id) ? held.filter((id) => id !== cue.id) : [...held, cue.id]
    view.select(cues.length ? { kind: 'cues', cues } : { kind: 'none' })
  }

  /** What moves the selected cues by some seconds. A single beat takes the tempo beside it along. */
  function moving(by: number, alone: boolean) {
    const [first, ...rest] = selected()
    if (first && !rest.length && BEATS.includes(first.kind) && !alone)
      return { do: 'pin-beat', cue: first.id, time: Math.max(0, first.time + by) } as const
    return { do: 'change-cues', cues: view.selectedCues, by } as const
  }

  function grab(event: PointerEvent, cue: PlacedCue, click: () => void): void {
    select(cue, event.shiftKey)
    if (event.shiftKey) return
    const origin = timeAt(event)
    const { altKey } = event
    let by = 0
    drag(
      event,
      (at) => {
        by = Math.max(-cue.time, timeAt(at) - origin)
        void edit.dryRun(moving(by, altKey))
        shift.by = by
        shift.show?.()
      },
      (moved) => {
        const done = () => {
          shift.by = 0
          shift.show?.()
        }
        if (moved) void edit.run(moving(by, altKey)).then(done, done)
        else {
          view.select({ kind: 'cues', cues: [cue.id] })
          click()
        }
      },
    )
  }
  /** How far the selected cues are dragged right now, and who draws it. */
  const shift: { by: number; show?: () => void } = { by: 0 }

  const remove = () =>
    void (view.selectedCues.length && edit.run({ do: 'remove-cues', cues: view.selectedCues }))
  const setKind = (kind: CueKind) =>
    void (view.selectedCues.length && edit.run({ do: 'change-cues', cues: view.selectedCues, by: 0, kind }))
  const merge = () => void edit.run({ do: 'merge-cues', cues: view.selectedCues, within: 0.05 })
  const nudge = (seconds: number) => void edit.run(moving(seconds, false))

  function keys(event: KeyboardEvent): void {
    if (!view.selectedCues.length || event.ctrlKey || event.metaKey) return
    const kind = /^\d$/.test(event.key) ? CUE_KINDS[Number(event.key)] : undefined
    if (kind) setKind(kind)
    else if (event.key === 'j') merge()
    else
      return handleKeys(event, {
        step: (by, far) => nudge(by * (far ? edit.clock.time(1) : FINE_SECONDS)),
        remove,
      })
    event.preventDefault()
    event.stopPropagation()
  }
  return { grab, keys, select, remove, setKind, merge, nudge, shift }
}
