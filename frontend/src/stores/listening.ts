/** How one listens: clicks over the music, a stretch that repeats, half and quarter speed, tapping. */
import { useLocalStorage } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'
import { api, type Beats, type CueKind } from '@/api/client'
import { CUE_KINDS } from '@/lib/terms'
import { useEdit } from './edit'
import { isActive, useLibrary } from './library'
import { useNotices } from './notices'
import { forEdit } from './scope'

export type Slowness = 1 | 2 | 4
/** Hats and notes are many: at first they are not heard. */
const LEVELS = Object.fromEntries(
  CUE_KINDS.map((kind) => [kind, kind === 'hat' || kind === 'note' ? 0 : 1]),
) as Record<CueKind, number>

export interface Loop {
  from: number
  to: number
}

export const useListening = forEdit('listening', () => {
  const edit = useEdit()
  const library = useLibrary()
  const notices = useNotices()
  const clicks = ref(false)
  const level = useLocalStorage('izmet-click-level', 0.5)
  /** How loud the click of each kind is, as a part of ``level``; at 0 it is not heard. */
  const levels = useLocalStorage<Record<CueKind, number>>('izmet-click-levels', LEVELS, {
    mergeDefaults: true,
  })
  /** A way to count that is tried: its beats are heard as clicks, instead of the cues. */
  const tried = shallowRef<Beats | null>(null)
  const loop = ref<Loop | null>(null)
  const slowness = ref<Slowness>(1)
  /** How much later than it hears a person taps, in seconds. */
  const latency = useLocalStorage('izmet-tap-latency', 0)
  const tap = ref({ kind: 'hand' as CueKind, draw: true, window: 0.06, replace: false })

  /** The job that makes the slow copy that was asked for last. */
  const asked = ref<number | null>(null)
  const job = computed(() => library.jobs.find((other) => other.id === asked.value))
  /** Whether the slow copy is being made. */
  const preparing = computed(() => !!job.value && slowness.value > 1 && isActive(job.value))

  async function setSlowness(next: Slowness): Promise<void> {
    slowness.value = next
    const sha256 = edit.song?.media.sha256
    if (next === 1 || !sha256) return
    const made = await fetch(`/api/assets/${sha256}/slow-${next}.flac`, { method: 'HEAD' }).catch(() => null)
    if (made?.ok) return
    const params = { path: { sha256 } }
    const making = await library.start(
      api.POST('/api/assets/{sha256}/slow', { params, body: { factor: next } }),
    )
    if (making) asked.value = making.id
    else slowness.value = 1
  }

  watch(
    () => job.value?.state,
    (state) => {
      if (state !== 'failed' || !job.value?.error) return
      notices.problem(job.value.error)
      slowness.value = 1
    },
  )
  watch(
    () => edit.song?.media.sha256,
    () => {
      tried.value = null
      loop.value = null
      slowness.value = 1
    },
  )
  return { tried, clicks, level, levels, loop, slowness, latency, tap, preparing, setSlowness }
})
