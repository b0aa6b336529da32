/** What was seen in the take at hand: light, movement, sound, distinct pictures, proposals. */
import { useLocalStorage } from '@vueuse/core'
import { computed, shallowRef, watch } from 'vue'
import { bytes, Failure, partOf, type Problem, type Proposal, type TakeMeasures } from '@/api/client'
import { Budget } from '@/lib/budget'
import { unpack } from '@/lib/packet'
import { useView } from '@/stores/view'

const KEPT_BYTES = 48 << 20
/** So many frames either way are seen at once around the frame at hand. */
export const REACH = 4
/** Kinds of proposals that nobody looks for now: a choice of the person, for all takes. */
const unsought = useLocalStorage<Proposal['kind'][]>('izmet-unsought', [])
/** From which weight on proposals are shown. */
const least = useLocalStorage('izmet-least-proposal', 0.25)
const kept = new Budget<TakeMeasures>(KEPT_BYTES)

async function ask(sha256: string): Promise<TakeMeasures> {
  const known = kept.get(sha256)
  if (known) return known
  const packet = await bytes(partOf(sha256, 'measures'))
  const measures = unpack<TakeMeasures>(packet)
  kept.set(sha256, measures, packet.byteLength)
  return measures
}

export function useMeasures() {
  const view = useView()
  const measures = shallowRef<TakeMeasures | null>(null)
  const problem = shallowRef<Problem | null>(null)

  async function load(): Promise<void> {
    const sha256 = view.take?.media.sha256
    measures.value = problem.value = null
    if (!sha256) return
    try {
      const found = await ask(sha256)
      if (view.take?.media.sha256 === sha256) measures.value = found
    } catch (failure) {
      if (!(failure instanceof Failure)) throw failure
      if (view.take?.media.sha256 === sha256) problem.value = failure.problem
    }
  }
  watch(() => view.take?.media.sha256, load, { immediate: true })

  /** Proposals that nobody has dismissed, and that no moment stands on. */
  const open = computed(() => {
    const gone = new Set([
      ...(view.take?.dismissed ?? []),
      ...(view.take?.moments ?? []).map((moment) => moment.frame),
    ])
    return (measures.value?.proposals ?? []).filter((proposal) => !gone.has(proposal.frame))
  })
  /** How many there are of each kind, the most frequent last. */
  const kinds = computed(() => {
    const counts = new Map<Proposal['kind'], number>()
    for (const { kind } of open.value) counts.set(kind, (counts.get(kind) ?? 0) + 1)
    return [...counts].sort((a, b) => a[1] - b[1])
  })
  /** Those of the kinds that somebody looks for. */
  const sought = computed(() => open.value.filter((proposal) => !unsought.value.includes(proposal.kind)))
  /** Those of them that weigh enough, in the order of their frames. */
  const proposals = computed(() => sought.value.filter((proposal) => proposal.weight >= least.value))
  const weaker = computed(() => sought.value.length - proposals.value.length)
  /** The weightiest around the frame at hand. */
  const guess = computed(() =>
    proposals.value
      .filter((each) => Math.abs(each.frame - view.takeFrame) <= REACH)
      .reduce<Proposal | null>((best, each) => (best && best.weight >= each.weight ? best : each), null),
  )
  const toggle = (kind: Proposal['kind']) =>
    (unsought.value = unsought.value.includes(kind)
      ? unsought.value.filter((other) => other !== kind)
      : [...unsought.value, kind])

  const showFrom = (weight: number) => (least.value = weight)

  return { measures, proposals, weaker, least, showFrom, guess, kinds, unsought, toggle, problem, load }
}
