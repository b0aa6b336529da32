/** What stands on a cue or a frame dragged to another one, or stepped there by keys: accents, sounds. */
import type { Command } from '@/api/client'
import { useHandleKeys } from '@/composables/useHandleKeys'
import type { Anchor } from '@/lib/accents'
import { nearestCue } from '@/lib/cues'
import { drag } from '@/lib/drag'
import { useEdit } from '@/stores/edit'
import { useMusic } from '@/stores/music'
import { useView } from '@/stores/view'

/** Something that stands at a place, and the commands about it. */
export interface Standing {
  at: Anchor
  choose: () => void
  moved: (at: Anchor) => Command
  removed: () => Command
}

export function useAnchorMoves(frameAt: (event: PointerEvent) => number) {
  const edit = useEdit()
  const handleKeys = useHandleKeys()
  const view = useView()
  const music = useMusic()

  /** Where it stands when its spot is pulled to an output frame; what follows ties and cuts stays with them. */
  function placeAt(at: Anchor, n: number): Anchor | null {
    if (at.to === 'frame') return { to: 'frame', n: Math.round(n) }
    if (at.to !== 'cues' || at.selection || at.cues?.length !== 1) return null
    const cue = nearestCue(music.shown, edit.clock.time(n))
    return cue && { to: 'cues', cues: [cue.id] }
  }

  function grab(event: PointerEvent, { at, choose, moved }: Standing, spot: number): void {
    choose()
    const grabbed = frameAt(event) - spot
    let place: Anchor | null = null
    drag(
      event,
      (now) => {
        place = placeAt(at, frameAt(now) - grabbed)
        if (place) void edit.dryRun(moved(place))
      },
      (hasMoved) => {
        if (hasMoved && place) void edit.run(moved(place))
        else edit.settle()
        if (!hasMoved) view.seekFrame(spot)
      },
    )
  }

  function keys(event: KeyboardEvent, { at, choose, moved, removed }: Standing): void {
    if (event.key === 'Enter' || event.key === ' ') {
      choose()
      event.preventDefault()
      event.stopPropagation()
      return
    }
    handleKeys(event, {
      step: (by, far) => {
        if (at.to === 'frame') void edit.run(moved({ to: 'frame', n: at.n + by * (far ? 10 : 1) }))
        else if (at.to === 'cues' && at.cues?.length === 1) {
          const frame = edit.cueFrames.get(at.cues[0]!)!
          const ordered = by > 0 ? music.shown : [...music.shown].reverse()
          const next = ordered.find((cue) => (edit.cueFrames.get(cue.id)! - frame) * by > 0)
          if (next) void edit.run(moved({ to: 'cues', cues: [next.id] }))
        }
      },
      remove: () => void edit.run(removed()),
    })
  }
  return { grab, keys }
}
