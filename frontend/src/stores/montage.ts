/** The edit as a row of shots: its cuts, what needs a look, which clips are chosen, how the sheet is laid out. */
import { useLocalStorage } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'
import { api, take, type Schemas } from '@/api/client'
import { nearestCue } from '@/lib/cues'
import { isLess } from '@/lib/rounding'
import { useEdit } from './edit'
import { useLayout } from './layout'
import { useNotices } from './notices'
import { useView } from './view'
import { forEdit } from './scope'

export interface Line {
  from: number
  to: number
  /** The number of its first bar; null where lines count seconds. */
  bar: number | null
}

/** What a line of the sheet holds: so many bars, a beat, or so few frames that each can be seen. */
export const ZOOMS = ['bars-16', 'bars-8', 'bars-4', 'bars-2', 'bars-1', 'beat', 'frames'] as const
export type Zoom = (typeof ZOOMS)[number]
const FRAMES_A_LINE = 12
/** Seconds on a line of four bars where the song has no bars. */
const PLAIN_LINE = 8
const FEWEST_BARS = 2

export const useMontage = forEdit('montage', () => {
  const edit = useEdit()
  const view = useView()
  const layout = useLayout()
  const notices = useNotices()
  const found = shallowRef<Schemas['MontageInfo'] | null>(null)
  /** The clips that are chosen together; none while only the one at hand is meant. */
  const chosen = ref<string[]>([])
  const cutAt = ref<number | null>(null)
  const zoom = useLocalStorage<Zoom>('izmet-sheet', 'bars-4')

  // In an answer pairs count as lists of any length; the commands in it are sent as they came.
  const ask = () =>
    take(api.GET('/api/edits/{id}/montage', { params: { path: { id: edit.id } } })) as Promise<
      Schemas['MontageInfo']
    >
  /** Where its desk is open it is on its way while the edit itself still is. */
  let early = layout.desk === 'montage' ? ask().catch(() => undefined) : undefined
  watch(
    () => [edit.state?.revision, layout.desk] as const,
    async () => {
      if (!edit.state || layout.desk !== 'montage') return
      const first = await early
      early = undefined
      const answer = first?.revision === edit.state.revision ? first : await notices.guard(ask())
      // Of an edit that has moved on it is asked anew.
      if (!answer || answer.revision === edit.state.revision) found.value = answer ?? null
    },
    { immediate: true },
  )
  watch(
    () => edit.clips,
    (clips) => (chosen.value = chosen.value.filter((id) => clips.some((clip) => clip.id === id))),
  )

  const cuts = computed(() => found.value?.cuts ?? [])
  const groups = computed(() => found.value?.groups ?? [])
  /** Pictures that are held evenly are told, but not counted or marked: few see them. */
  const troubles = computed(() =>
    groups.value.filter(({ kind }) => kind !== 'even cadence').flatMap((group) => group.troubles),
  )
  /** The cut at hand: the chosen one, else the nearest to the playhead. */
  const cut = computed(() => {
    const n = cutAt.value ?? view.frame
    return [...cuts.value].sort((a, b) => Math.abs(a.n - n) - Math.abs(b.n - n))[0] ?? null
  })

  const end = computed(() => Math.max(edit.over, 1))

  const lines = computed<Line[]>(() => {
    if (zoom.value === 'frames') return even(edit.clock.time(FRAMES_A_LINE))
    const bars = zoom.value === 'beat' ? 1 : Number(zoom.value.slice('bars-'.length))
    const downbeats = edit.cues.filter((cue) => cue.kind === 'downbeat').map((cue) => cue.at)
    if (downbeats.length < FEWEST_BARS) return even((PLAIN_LINE * bars) / 4)
    const found = laid(downbeats, bars, end.value)
    return zoom.value === 'beat' ? found.flatMap(beatsOf) : found
  })

  function even(long: number): Line[] {
    const count = Math.ceil(end.value / long)
    return Array.from({ length: count }, (_, i) => ({ from: i * long, to: (i + 1) * long, bar: null }))
  }

  /** A line for each beat of a bar. */
  function beatsOf(line: Line): Line[] {
    const inside = edit.cues
      .filter(({ kind, at }) => kind === 'beat' && isLess(line.from, at) && isLess(at, line.to))
      .map((cue) => cue.at)
    const edges = [line.from, ...inside, line.to]
    return inside
      .map((at, i) => ({ ...line, from: edges[i]!, to: at }))
      .concat({ ...line, from: edges.at(-2)! })
  }

  /** The clips that something is done to, and that are outlined: those chosen together, else the one at hand. */
  const mine = computed(() => (chosen.value.length ? chosen.value : view.clip ? [view.clip.id] : []))

  /** The clips in the order in which they begin. */
  const inOrder = computed(() =>
    [...(edit.derived?.clips ?? [])].sort((a, b) => a.first - b.first).map((clip) => clip.id),
  )

  /** Choose one clip alone, one more (or one less), or all from the one at hand to it. */
  function choose(id: string, how: 'alone' | 'more' | 'up to' = 'alone'): void {
    const before = mine.value
    const from = inOrder.value.indexOf(view.clip?.id ?? id)
    const to = inOrder.value.indexOf(id)
    if (how === 'up to') chosen.value = inOrder.value.slice(Math.min(from, to), Math.max(from, to) + 1)
    else if (how === 'more') {
      const without = before.filter((other) => other !== id)
      chosen.value = without.length < before.length && without.length ? without : [...without, id]
    } else chosen.value = [id]
    // The one at hand is one of those that are chosen: a stretch goes on from where it began.
    if (how === 'alone' || !chosen.value.includes(view.clip?.id ?? '')) view.chooseClip(chosen.value.at(-1)!)
  }
  // A clip that is taken in hand elsewhere is meant alone.
  watch(
    () => view.clip?.id,
    (id) => {
      if (id && !chosen.value.includes(id)) chosen.value = []
    },
  )
  /** Stretches that are about to be filled, with their length in words. */
  const slots = ref<{ from: number; to: number; said: string }[]>([])
  const copied = ref<string[]>([])
  /** Two clips that are about to be swapped. */
  const swapping = ref<{ from: string; to: string } | null>(null)
  /** The cue at hand: the selected one, else the nearest to the playhead. */
  const cueHere = computed(() => view.selectedCues[0] ?? nearestCue(edit.cues, view.playhead)?.id)
  /** Lay clips once more from the cue at hand on, or move them there. */
  const repeat = async (clips: string[], move = false) => {
    const there = clips.filter((id) => edit.clipById.has(id))
    if (cueHere.value && there.length)
      await edit.run({ do: 'repeat-section', clips: there, cue: cueHere.value, move })
  }
  const split = () =>
    void (view.clip && edit.run({ do: 'split-clip', clip: view.clip.id, n: view.frame, cues: [] }))
  const join = () =>
    void (cut.value && edit.run({ do: 'join-clips', clip: cut.value.before, other: cut.value.after }))
  /** Swap the clip at hand with the one after it, or before it. */
  function swapBeside(by: 1 | -1): void {
    const other = inOrder.value[inOrder.value.indexOf(view.clip?.id ?? '') + by]
    if (view.clip && other) void edit.run({ do: 'swap-clips', clip: view.clip.id, other })
  }
  /** Output frames of black beside a cut. */
  const dark = ref(4)
  /** The cuts that are worked on: those between chosen clips, else the one at hand. */
  const myCuts = computed(() => {
    const between = cuts.value.filter(
      (each) => chosen.value.includes(each.before) && chosen.value.includes(each.after),
    )
    return between.length ? between : cut.value ? [cut.value] : []
  })
  /** Black up to the cut, which goes on following its cue, or from it on. */
  const black = (side: 'before' | 'after') =>
    edit.runAll(
      myCuts.value.map(({ n, cue }) => {
        const on = cue ?? n
        const [since, until] = side === 'before' ? [Math.max(0, n - dark.value), on] : [on, n + dark.value]
        return { do: 'add-black', since, until }
      }),
    )
  const remove = (clips: string[]) => edit.runAll(clips.map((clip) => ({ do: 'remove-clip', clip })))

  /** The stretch that is worked on, in seconds of the edit; nothing for the whole edit. */
  const range = computed(() => {
    const found = edit.edit?.range
    return found ? { from: placeOf(found.since), to: placeOf(found.until) } : null
  })
  const placeOf = (pin: Parameters<typeof edit.frameOf>[0]) => edit.clock.time(edit.frameOf(pin))
  function setRange(side: 'since' | 'until'): void {
    const now = edit.edit?.range
    const whole = { since: 0, until: edit.clock.next(edit.end) || view.frame + 1 }
    const kept = now ? { since: edit.placeOf(now.since), until: edit.placeOf(now.until) } : whole
    void edit.run({ do: 'set-range', ...kept, [side]: edit.placeOn(view.frame) })
  }
  const clearRange = () => void edit.run({ do: 'clear-range' })
  const blacks = computed(() =>
    (edit.edit?.blacks ?? []).map((each) => ({
      id: each.id,
      from: placeOf(each.since),
      to: placeOf(each.until),
    })),
  )

  /** All clips of the range, or of the edit. */
  function chooseAll(): void {
    const { from, to } = range.value ?? { from: 0, to: Infinity }
    const inside = (edit.derived?.clips ?? []).filter(
      ({ first, source }) => edit.clock.time(first) < to && edit.clock.time(first + source.length) > from,
    )
    chosen.value = inside.map((clip) => clip.id)
    if (inside[0] && !chosen.value.includes(view.clip?.id ?? '')) view.chooseClip(inside[0].id)
  }

  function seekCut(n: number): void {
    cutAt.value = n
    view.seekFrame(n)
  }
  return {
    cuts, groups, troubles, cut, cutAt, chosen, zoom, lines, choose, chooseAll, seekCut,
    mine, myCuts, split, join, swapBeside, dark, black, cueHere, slots, copied, swapping, repeat, remove, range, setRange, clearRange, blacks,
  } // prettier-ignore
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
