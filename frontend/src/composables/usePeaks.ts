/** A song's peaks: the pyramid from the server, and the level that suits a zoom. */
import { shallowRef, watch, type Ref } from 'vue'
import { partOf, type SongFacts } from '@/api/client'

const BANDS = 3

export interface Peaks {
  /** Peak of a band (0 low, 1 mid, 2 high), 0..1, between two instants in seconds. */
  between: (band: number, from: number, to: number) => number
}

export function usePeaks(song: Ref<{ sha256: string; facts: SongFacts } | null>): Ref<Peaks | null> {
  const peaks = shallowRef<Peaks | null>(null)
  watch(
    () => song.value?.sha256,
    async (sha256) => {
      peaks.value = null
      const facts = song.value?.facts
      if (!sha256 || !facts) return
      const answer = await fetch(partOf(sha256, 'peaks'))
      if (answer.ok && song.value?.sha256 === sha256)
        peaks.value = pyramid(new Uint8Array(await answer.arrayBuffer()), facts)
    },
    { immediate: true },
  )
  return peaks
}

function pyramid(bytes: Uint8Array, facts: SongFacts): Peaks {
  const { base, factor, levels } = facts.peaks
  let offset = 0
  const views = levels.map((entries, level) => {
    const values = bytes.subarray(offset, (offset += entries * BANDS))
    return { values, entries, perSecond: facts.sample_rate / (base * factor ** level) }
  })
  return {
    between(band, from, to) {
      const level = [...views].reverse().find((other) => (to - from) * other.perSecond >= 1) ?? views[0]!
      const begin = Math.max(0, Math.floor(from * level.perSecond))
      const end = Math.min(level.entries, Math.max(begin + 1, Math.ceil(to * level.perSecond)))
      let most = 0
      for (let i = begin; i < end; i += 1) most = Math.max(most, level.values[i * BANDS + band] ?? 0)
      return most / 255
    },
  }
}
