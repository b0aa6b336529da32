/** Two states of the edit side by side: what it is now, and one that was kept as B. */
import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import { api, take, type Derived } from '@/api/client'
import { useEdit } from './edit'
import { useNotices } from './notices'

export const useCompare = defineStore('compare', () => {
  const edit = useEdit()
  const notices = useNotices()
  const kept = shallowRef<{ revision: number; derived: Derived } | null>(null)
  const showing = ref(false)

  /** Keep the state as it is now as B. */
  async function keep(): Promise<void> {
    if (!edit.state) return
    const path = { id: edit.state.id, revision: edit.state.revision }
    const asked = api.GET('/api/edits/{id}/revisions/{revision}/derived', { params: { path } })
    const derived = await notices.guard(take(asked))
    if (derived) kept.value = { revision: path.revision, derived }
  }

  /** Show B in place of what is now, or what is now again; the music plays on. */
  function toggle(): void {
    if (kept.value) showing.value = !showing.value
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

  watch(showing, (on) => (edit.instead = on ? (kept.value?.derived ?? null) : null))
  // A change to the edit is a change to A: it is shown again.
  watch(
    () => edit.state,
    () => (showing.value = false),
  )
  watch(() => edit.state?.id, forget)

  const clipOf = computed(() => new Map((kept.value?.derived.clips ?? []).map((clip) => [clip.id, clip])))
  return { kept, showing, clipOf, keep, toggle, forget, takeB }
})
