/** What was seen in the take at hand: light, movement, sound, distinct pictures, proposals. */
import { computed, shallowRef, watch } from 'vue'
import { bytes, Failure, partOf, type Problem, type TakeLooks } from '@/api/client'
import { unpack } from '@/lib/packet'
import { useView } from '@/stores/view'

const kept = new Map<string, Promise<TakeLooks>>()

function ask(sha256: string): Promise<TakeLooks> {
  let looks = kept.get(sha256)
  if (!looks) {
    looks = bytes(partOf(sha256, 'looks')).then((packet) => unpack<TakeLooks>(packet))
    kept.set(sha256, looks)
    looks.catch(() => kept.delete(sha256))
  }
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
