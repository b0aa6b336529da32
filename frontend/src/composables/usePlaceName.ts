/** Where in the edit a refusal is about, in words: the core names clips and their pins by id. */
import { momentName } from '@/lib/names'
import { useEdit } from '@/stores/edit'

const PLACE = /^clip ([^\s,]+)(?:, pin ([^\s,]+))?/

export function usePlaceName(): (where: string) => string {
  const edit = useEdit()
  return (where) =>
    where.replace(PLACE, (said: string, id: string, pinId?: string) => {
      const [clip, name] = [edit.clipById.get(id), edit.clipNames.get(id)]
      if (!clip || !name) return said
      const moment = clip.pins.find((pin) => pin.id === pinId)?.moment
      const take = edit.takes.find((other) => other.id === clip.take)
      return moment ? `${name}, ${momentName(take?.moments?.find((each) => each.id === moment))}` : name
    })
}
