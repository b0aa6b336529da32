/** The edit as a row of shots: its cuts, what needs a look, which clips are chosen, how the sheet is laid out. */
import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import { api, take, type Schemas } from '@/api/client'
import { useEdit } from './edit'
import { useMusic } from './music'
import { useNotices } from './notices'
import { useView } from './view'

export interface Line {
  from: number
  to: number
  /** The number of its first bar; null where lines count seconds. */
  bar: number | null
}

/** Seconds on a line where the song has no bars. */
const PLAIN_LINE = 8
const FEWEST_BARS = 2

export const useMontage = defineStore('montage', () => {
  const edit = useEdit()
  const view = useView()
  const music = useMusic()
  const notices = useNotices()
  const found = shallowRef<Schemas['Montage'] | null>(null)
  /** The clips that are chosen together, besides the one at hand. */
  const chosen = ref<string[]>([])
  const cutAt = ref<number | null>(null)
  const bars = useLocalStorage<2 | 4 | 8 | 16>('izmet-bars', 4)

  watch(
    () => [edit.state?.revision, music.desk] as const,
    async () => {
      if (!edit.state || music.desk !== 'montage') return
      const asked = api.GET('/api/edits/{id}/montage', { params: { path: { id: edit.state.id } } })
      found.value = (await notices.guard(take(asked))) ?? null
    },
    { immediate: true },
  )
  watch(
    () => edit.clips,
    (clips) => (chosen.value = chosen.value.filter((id) => clips.some((clip) => clip.id === id))),
  )

  const cuts = computed(() => found.value?.cuts ?? [])
  const troubles = computed(() => found.value?.troubles ?? [])
  /** The cut at hand: the chosen one, else the nearest to the playhead. */
  const cut = computed(() => {
    const n = cutAt.value ?? view.frame
    return [...cuts.value].sort((a, b) => Math.abs(a.n - n) - Math.abs(b.n - n))[0] ?? null
  })

  const end = computed(() => {
    const map = edit.derived?.map
    const shown = map ? (map.first + map.clip.length) / view.outputRate : 0
    return Math.max(edit.end, shown, 1)
  })

  const lines = computed<Line[]>(() => {
    const downbeats = edit.cues.filter((cue) => cue.kind === 'downbeat').map((cue) => cue.at)
    if (downbeats.length < FEWEST_BARS) {
      const count = Math.ceil(end.value / PLAIN_LINE)
      return Array.from({ length: count }, (_, i) => ({
        from: i * PLAIN_LINE,
        to: (i + 1) * PLAIN_LINE,
        bar: null,
      }))
    }
    return laid(downbeats, bars.value, end.value)
  })

  function toggle(id: string): void {
    const without = chosen.value.filter((other) => other !== id)
    chosen.value = without.length < chosen.value.length ? without : [...chosen.value, id]
  }

  function seekCut(n: number): void {
    cutAt.value = n
    view.seekFrame(n)
  }
  return { cuts, troubles, cut, cutAt, chosen, bars, lines, toggle, seekCut }
})

/** Lines of so many bars; before the first downbeat and after the last one bars go on as beside them. */
function laid(downbeats: number[], bars: number, end: number): Line[] {
  const edges = [...downbeats]
  const [lead, tail] = [edges[1]! - edges[0]!, edges.at(-1)! - edges.at(-2)!]
  let before = 0
  while (edges[0]! > 0.01) {
    edges.unshift(edges[0]! - lead)
    before += 1
  }
  while (edges.at(-1)! < end || (edges.length - 1) % bars) edges.push(edges.at(-1)! + tail)
  const lines: Line[] = []
  for (let i = 0; i + bars < edges.length && edges[i]! < end; i += bars)
    lines.push({ from: edges[i]!, to: edges[i + bars]!, bar: i + 1 - before })
  return lines
}
