/** What to call a clip, by its id. */
import { useEdit } from '@/stores/edit'

export function useClipName(): (id: string) => string {
  const edit = useEdit()
  return (id) => (['black', 'tint'].includes(id) ? id : (edit.clipNames.get(id) ?? 'a new clip'))
}
