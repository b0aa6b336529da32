/** Two states of the edit side by side: what it is now, and one that was kept as B. */
import { computed, shallowRef } from 'vue'
import type { EditState } from '@/api/client'
import { useEdit } from './edit'
import { forEdit } from './scope'

export const useCompare = forEdit('compare', () => {
  const edit = useEdit()
  const kept = shallowRef<EditState | null>(null)
  /** Whether B is shown in place of what is now; the music plays on. A change to the edit shows A again. */
  const showing = computed({
    get: () => !!edit.instead,
    set: (on) => edit.showInstead(on ? kept.value : null),
  })

  /** Keep the state as it is now as B. */
  function keep(): void {
    if (!edit.instead) kept.value = edit.state
  }

  function toggle(): void {
    showing.value = !showing.value
  }

  function forget(): void {
    showing.value = false
    kept.value = null
  }

  /** Go on from B. */
  async function takeB(): Promise<void> {
    const revision = kept.value?.revision
    showing.value = false
    if (revision !== undefined) await edit.goTo(revision)
  }

  const clipOf = computed(() => new Map((kept.value?.derived.clips ?? []).map((clip) => [clip.id, clip])))
  return { kept, showing, clipOf, keep, toggle, forget, takeB }
})
