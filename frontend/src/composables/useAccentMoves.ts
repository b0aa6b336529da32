/** Accents dragged to other places, and made longer: snapped to cues where they stand on one. */
import { useHandleKeys } from '@/composables/useHandleKeys'
import { nearestCue } from '@/lib/cues'
import { drag } from '@/lib/drag'
import { type Accent, type AccentChange, type Anchor } from '@/lib/accents'
import { useEdit } from '@/stores/edit'
import { useMusic } from '@/stores/music'
import { useView } from '@/stores/view'

export function useAccentMoves(frameAt: (event: PointerEvent) => number) {
  const edit = useEdit()
  const handleKeys = useHandleKeys()
  const view = useView()
  const music = useMusic()
  const set = (accent: Accent, values: AccentChange) =>
    ({ do: 'change-accent', accent: accent.id, ...values }) as const

  /** Have it at hand: it is found in the list of all. */
  function choose({ id }: Accent): void {
    view.select({ kind: 'none' })
    view.accent = id
  }

  /** Where it stands when its spot is pulled to an output frame; what follows ties and cuts stays with them. */
  function placeAt({ at }: Accent, n: number): Anchor | null {
    if (at.to === 'frame') return { to: 'frame', n: Math.round(n) }
    if (at.to !== 'cues' || at.selection || at.cues?.length !== 1) return null
    const cue = nearestCue(music.shown, edit.clock.time(n))
    return cue && { to: 'cues', cues: [cue.id] }
  }

  function grab(event: PointerEvent, accent: Accent, spot: number): void {
    choose(accent)
    const grabbed = frameAt(event) - spot
    let place: Anchor | null = null
    drag(
      event,
      (now) => {
        place = placeAt(accent, frameAt(now) - grabbed)
        if (place) void edit.dryRun(set(accent, { at: place }))
      },
      (moved) => {
        if (moved && place) void edit.run(set(accent, { at: place }))
        else edit.settle()
        if (!moved) view.seekFrame(spot)
      },
    )
  }

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

  function keys(event: KeyboardEvent, accent: Accent): void {
    if (event.key === 'Enter' || event.key === ' ') {
      choose(accent)
      event.preventDefault()
      event.stopPropagation()
      return
    }
    handleKeys(event, {
      step: (by, far) => {
        const { at } = accent
        if (at.to === 'frame')
          void edit.run(set(accent, { at: { to: 'frame', n: at.n + by * (far ? 10 : 1) } }))
        else if (at.to === 'cues' && at.cues?.length === 1) {
          const frame = edit.cueFrames.get(at.cues[0]!)!
          const ordered = by > 0 ? music.shown : [...music.shown].reverse()
          const next = ordered.find((cue) => (edit.cueFrames.get(cue.id)! - frame) * by > 0)
          if (next) void edit.run(set(accent, { at: { to: 'cues', cues: [next.id] } }))
        }
      },
      remove: () => void edit.run({ do: 'remove-accent', accent: accent.id }),
    })
  }
  return { grab, grabEdge, keys }
}
