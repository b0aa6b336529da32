/** What to call a clip, by its id. */
import { useEdit } from '@/stores/edit'

export function useClipName(): (id: string) => string {
  const edit = useEdit()
  return (id) => (id === 'black' ? 'black' : (edit.clipNames.get(id) ?? 'a new clip'))
}
