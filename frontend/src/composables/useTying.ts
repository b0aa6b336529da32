/** Tying a moment to a cue: in the clip at hand, or by laying its take, once or once more. */
import type { Moment } from '@/api/client'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'

export function useTying() {
  const edit = useEdit()
  const view = useView()

  /** Tie in the clip at hand; lay the take where no clip shows it yet. */
  async function tieMoment(take: string, moment: Moment, cue: string): Promise<void> {
    const clip = view.clip
    if (!clip) return layTake(take, moment, cue)
    if (await edit.run({ do: 'add-tie', clip: clip.id, moment: moment.id, cue })) show(moment, cue)
  }

  /** Lay the take as a clip of its own, with the moment on the cue. */
  async function layTake(take: string, moment: Moment, cue: string): Promise<void> {
    if (!(await edit.run({ do: 'lay-take', take, moment: moment.id, cue }))) return
    const laid = edit.clips[edit.clips.length - 1]
    if (laid) view.chooseClip(laid.id)
    show(moment, cue)
    view.fit()
  }

  function show(moment: Moment, cue: string): void {
    const pin = view.clip?.pins.find((other) => other.moment === moment.id)
    if (pin && view.clip) view.select({ kind: 'pin', clip: view.clip.id, pin: pin.id })
    view.seekFrame(edit.cueFrames.get(cue) ?? 0)
  }
  return { tieMoment, layTake }
}
