/** Where the flow of a clip is to be doubted: the frames between pictures that do not find each other well. */
import { computed } from 'vue'
import { flows } from '@/composables/useFlow'
import { pairOn, type Pair } from '@/lib/stack'
import { useEdit } from '@/stores/edit'

/** From so much of the picture on, motion that does not lead back is worth a look. */
const DOUBTFUL = 0.2

export interface Doubt {
  /** The output frame that lies nearest to the middle between the two. */
  n: number
  /** The source frame of the later picture. */
  source: number
  astray: number
}

export function useDoubts(clipOf: () => string | undefined) {
  const edit = useEdit()
  const clip = computed(() => edit.derivedById.get(clipOf() ?? ''))
  const sha256 = computed(() => (clip.value ? edit.takeOf(clip.value.id)?.media.sha256 : null))
  /** Each two pictures between which something is seen, and the frame that lies nearest to their middle. */
  const pairs = computed(() => {
    const found = new Map<number, { n: number; pair: Pair }>()
    if (!clip.value?.mix) return found
    const off = ({ part }: Pair) => Math.abs(part - 0.5)
    const { first, source, mix } = clip.value
    for (let n = first; n < first + source.length; n += 1) {
      const pair = pairOn(mix, n)
      const known = pair && found.get(pair.second)
      if (pair && (!known || off(pair) < off(known.pair))) found.set(pair.second, { n, pair })
    }
    return found
  })
  return computed<Doubt[]>(() => {
    void flows.count.value
    const doubts = [...pairs.value.values()].map(({ n, pair }) => ({
      n,
      source: pair.second,
      astray: flows.ready(sha256.value ?? '', pair)?.astray ?? 0,
    }))
    return doubts.filter(({ astray }) => astray >= DOUBTFUL).sort((a, b) => b.astray - a.astray)
  })
}
