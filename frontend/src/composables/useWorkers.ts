/** The workers that render, asked anew every second while somebody looks. */
import { computed, onScopeDispose, shallowRef, watch } from 'vue'
import { api, take, type Schemas } from '@/api/client'

const LOOK_MS = 1000

export function useWorkers(looks: () => boolean) {
  const seen = shallowRef<Schemas['Workers'] | null>(null)
  const able = computed(
    () => seen.value?.workers?.filter(({ version }) => version === seen.value?.version) ?? [],
  )
  let timer: ReturnType<typeof setTimeout> | undefined
  /** Counts up with each begin and end: an answer to what was asked before one asks no further. */
  let turn = 0

  async function look(mine: number): Promise<void> {
    try {
      seen.value = await take(api.GET('/api/workers'))
    } catch {
      // The server is away; that is told elsewhere, and it is asked again.
    }
    if (mine === turn) timer = setTimeout(() => void look(mine), LOOK_MS)
  }
  function end(): void {
    turn += 1
    clearTimeout(timer)
  }
  watch(
    looks,
    (now) => {
      end()
      if (now) void look(turn)
    },
    { immediate: true },
  )
  onScopeDispose(end)
  return { seen, able }
}
