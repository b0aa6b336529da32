/** A song's waveform at every zoom: the pyramid of peaks, and single samples where the view is close. */
import { shallowRef, watch, type Ref } from 'vue'
import { bytes, Failure, partOf, type Problem, type SongFacts } from '@/api/client'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'

const BANDS = 3
const MOST_SAMPLES = 1 << 17
const LOUDEST = 32767

export interface Peaks {
  /** Peak of a band (0 low, 1 mid, 2 high), 0..1, between two instants of the song in seconds. */
  between: (band: number, from: number, to: number) => number
}

export interface Samples {
  /** The first and the last sample that are there. */
  begin: number
  end: number
  rate: number
  /** A sample of a band, −1..1, by its number in the song. */
  at: (band: number, index: number) => number
}

export function usePeaks(song: Ref<{ sha256: string; facts: SongFacts } | null>): {
  peaks: Ref<Peaks | null>
  samples: Ref<Samples | null>
  /** Why the waveform is not there; ``load`` tries again. */
  problem: Ref<Problem | null>
  load: () => Promise<void>
} {
  const edit = useEdit()
  const view = useView()
  const peaks = shallowRef<Peaks | null>(null)
  const samples = shallowRef<Samples | null>(null)
  const problem = shallowRef<Problem | null>(null)

  async function load(): Promise<void> {
    peaks.value = samples.value = problem.value = null
    const now = song.value
    if (!now) return
    try {
      const found = pyramid(new Uint8Array(await bytes(partOf(now.sha256, 'peaks'))), now.facts)
      if (song.value?.sha256 === now.sha256) peaks.value = found
    } catch (failure) {
      if (!(failure instanceof Failure)) throw failure
      if (song.value?.sha256 === now.sha256) problem.value = failure.problem
    }
  }
  watch(() => song.value?.sha256, load, { immediate: true })

  let asked = 0
  watch(
    () => [view.from, view.to, song.value?.sha256] as const,
    async ([from, to, sha256]) => {
      const facts = song.value?.facts
      const rate = facts?.sample_rate ?? 0
      if (!sha256 || (to - from) * rate > MOST_SAMPLES / 2) return
      const start = edit.song?.start ?? 0
      const held = samples.value
      const first = Math.max(0, Math.floor((from - start) * rate))
      const last = Math.ceil((to - start) * rate)
      if (held && first >= held.begin && last <= held.end) return
      const begin = Math.max(0, first - Math.floor((MOST_SAMPLES - (last - first)) / 2))
      const mine = (asked += 1)
      const found = await bytes(`/api/assets/${sha256}/wave?begin=${begin}&count=${MOST_SAMPLES}`).catch(
        () => null,
      ) // the peaks stay in sight
      if (!found || mine !== asked || song.value?.sha256 !== sha256) return
      const values = new Int16Array(found)
      samples.value = {
        begin,
        end: begin === 0 ? Math.max(last, values.length / BANDS) : begin + MOST_SAMPLES,
        rate,
        at: (band, index) => (values[(index - begin) * BANDS + band] ?? 0) / LOUDEST,
      }
    },
    { immediate: true },
  )
  return { peaks, samples, problem, load }
}

function pyramid(bytes: Uint8Array, facts: SongFacts): Peaks {
  const { base, factor, levels } = facts.peaks
  let offset = 0
  const views = levels.map((entries, level) => {
    const values = bytes.subarray(offset, (offset += entries * BANDS))
    return { values, entries, perSecond: facts.sample_rate / (base * factor ** level) }
  })
  const coarsest = [...views].reverse()
  return {
    between(band, from, to) {
      const level = coarsest.find((other) => (to - from) * other.perSecond >= 1) ?? views[0]!
      const begin = Math.max(0, Math.floor(from * level.perSecond))
      const end = Math.min(level.entries, Math.max(begin + 1, Math.ceil(to * level.perSecond)))
      let most = 0
      for (let i = begin; i < end; i += 1) most = Math.max(most, level.values[i * BANDS + band] ?? 0)
      return most / 255
    },
  }
}
