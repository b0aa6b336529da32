/** Accents dragged to other places, and made longer: snapped to cues where they stand on one. */
import { useAnchorMoves, type Standing } from '@/composables/useAnchorMoves'
import { drag } from '@/lib/drag'
import { type Accent, type AccentChange } from '@/lib/accents'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'

export function useAccentMoves(frameAt: (event: PointerEvent) => number) {
  const edit = useEdit()
  const view = useView()
  const moves = useAnchorMoves(frameAt)
  const set = (accent: Accent, values: AccentChange) =>
    ({ do: 'change-accent', accent: accent.id, ...values }) as const

  /** Have it at hand: it is found in the list of all. */
  function choose({ id }: Accent): void {
    view.select({ kind: 'none' })
    view.accent = id
  }
  const standing = (accent: Accent): Standing => ({
    at: accent.at,
    choose: () => choose(accent),
    moved: (at) => set(accent, { at }),
    removed: () => ({ do: 'remove-accent', accent: accent.id }),
  })
  const grab = (event: PointerEvent, accent: Accent, spot: number) =>
    moves.grab(event, standing(accent), spot)
  const keys = (event: KeyboardEvent, accent: Accent) => moves.keys(event, standing(accent))

  /** A length of so many output frames as the accent counts it; in beats and shares by what it is now. */
  function lengthOf(accent: Accent, side: 'lead' | 'tail', frames: number, now: number): number {
    const unit = accent.unit ?? 'frames'
    const length = Math.max(0, Math.round(frames))
    if (unit === 'frames') return length
    if (unit === 'seconds') return edit.clock.time(length)
    return now ? ((accent[side] ?? 0) * length) / now : (accent[side] ?? 0)
  }

  /** Its lead or its tail is made longer or shorter; it lasts `now` output frames. */
  function grabEdge(event: PointerEvent, accent: Accent, side: 'lead' | 'tail', now: number): void {
    choose(accent)
    const begun = frameAt(event)
    const way = side === 'lead' ? -1 : 1
    let length = accent[side] ?? 0
    drag(
      event,
      (at) => {
        length = lengthOf(accent, side, now + way * (frameAt(at) - begun), now)
        void edit.dryRun(set(accent, { [side]: length }))
      },
      (moved) => (moved ? void edit.run(set(accent, { [side]: length })) : edit.settle()),
    )
  }
  return { grab, grabEdge, keys }
}
