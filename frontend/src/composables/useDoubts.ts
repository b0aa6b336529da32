/** Where the flow of a clip is to be doubted: the frames between pictures that do not find each other well. */
import { computed } from 'vue'
import { flows } from '@/composables/useFlow'
import { pairOn } from '@/lib/stack'
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
  return computed<Doubt[]>(() => {
    void flows.count.value
    const id = clipOf()
    const mix = edit.derivedById.get(id ?? '')?.mix
    const take = edit.clipById.get(id ?? '')?.take
    const sha256 = edit.takes.find((other) => other.id === take)?.media.sha256
    if (!mix || !sha256) return []
    const found = new Map<number, Doubt & { off: number }>()
    const { first: begin, source } = edit.derivedById.get(id ?? '')!
    for (let n = begin; n < begin + source.length; n += 1) {
      const pair = pairOn(mix, n)
      if (!pair) continue
      const [first, second] = [pair[0]!, pair[1]!]
      const astray = flows.ready(sha256, first.source, second.source)?.astray ?? 0
      const off = Math.abs(second.weight - 0.5)
      if (astray < DOUBTFUL || off >= (found.get(second.source)?.off ?? 1)) continue
      found.set(second.source, { n, source: second.source, astray, off })
    }
    return [...found.values()].sort((a, b) => b.astray - a.astray)
  })
}
