/**
 * The keys of a handle whose steps are kept by the server. A step goes on from where the handle stands, so a key
 * that comes while a change is still being kept waits until that is shown: of quick presses none is lost. A key
 * that is held down steps as fast as is kept.
 */
import { until } from '@vueuse/core'
import { nextTick } from 'vue'
import { handleKeys, takesKey, type HandleKeys } from '@/lib/handleKeys'
import { useEdit } from '@/stores/edit'

export function useHandleKeys() {
  const edit = useEdit()
  async function later(event: KeyboardEvent): Promise<void> {
    const handle = event.currentTarget as Element
    await until(() => edit.saving).toBe(0)
    await nextTick()
    if (handle.isConnected) handle.dispatchEvent(new KeyboardEvent(event.type, event))
  }
  return (event: KeyboardEvent, keys: HandleKeys): void => {
    if (!edit.saving) handleKeys(event, keys)
    else if (takesKey(event, keys) && !event.repeat) void later(event)
  }
}
