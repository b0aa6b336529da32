/** What was seen in the take at hand: light, movement, sound, distinct pictures, proposals. */
import { computed, shallowRef, watch } from 'vue'
import { bytes, Failure, partOf, type Problem, type TakeLooks } from '@/api/client'
import { Budget } from '@/lib/budget'
import { unpack } from '@/lib/packet'
import { useView } from '@/stores/view'

const KEPT_BYTES = 48 << 20
const kept = new Budget<TakeLooks>(KEPT_BYTES)

async function ask(sha256: string): Promise<TakeLooks> {
  const known = kept.get(sha256)
  if (known) return known
  const packet = await bytes(partOf(sha256, 'looks'))
  const looks = unpack<TakeLooks>(packet)
  kept.set(sha256, looks, packet.byteLength)
  return looks
}

export function useLooks() {
  const view = useView()
  const looks = shallowRef<TakeLooks | null>(null)
  const problem = shallowRef<Problem | null>(null)

  async function load(): Promise<void> {
    const sha256 = view.take?.media.sha256
    looks.value = problem.value = null
    if (!sha256) return
    try {
      const found = await ask(sha256)
      if (view.take?.media.sha256 === sha256) looks.value = found
    } catch (failure) {
      if (!(failure instanceof Failure)) throw failure
      if (view.take?.media.sha256 === sha256) problem.value = failure.problem
    }
  }
  watch(() => view.take?.media.sha256, load, { immediate: true })

  /** Proposals that nobody has dismissed, and that no moment stands on. */
  const proposals = computed(() => {
    const gone = new Set([
      ...(view.take?.dismissed ?? []),
      ...(view.take?.moments ?? []).map((moment) => moment.frame),
    ])
    return (looks.value?.proposals ?? []).filter((proposal) => !gone.has(proposal.frame))
  })
  return { looks, proposals, problem, load }
}
