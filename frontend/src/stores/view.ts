/** What the person looks at: the playhead, the stretch in view, the take at hand, what is selected. */
import { computed, ref, watch } from 'vue'
import { useStretch } from '@/composables/useStretch'
import { frameClock } from '@/lib/frameClock'
import { groundOn } from '@/lib/stack'
import { useEdit } from './edit'
import { forEdit } from './scope'

export type Selection =
  | { kind: 'none' }
  | { kind: 'pin'; clip: string; pin: string }
  | { kind: 'span'; clip: string; span: number }
  | { kind: 'cues'; cues: string[] }
  | { kind: 'moment'; take: string; moment: string }

/** How pictures are seen: with all of the edit, as they are in their takes, or without accents. */
export type SeenAs = 'edit' | 'take' | 'bare'

const SHORTEST_VIEW = 0.002
const MARGIN = 0.05
/** What the picture rail shows of a long take around a clip, or around its moments: so much to each side. */
const AROUND_SECONDS = 5
/** Where that is more than this part of a take, all of it is shown. */
const MOST_PART = 1 / 3

export const useView = forEdit('view', () => {
  const edit = useEdit()
  const playhead = ref(0)
  const from = ref(0)
  const to = ref(10)
  const takeId = ref<string | null>(null)
  /** The clip at hand: one of those that show the take at hand, none when no clip does. */
  const clipId = ref<string | null>(null)
  const takeFrame = ref(0)
  const asked = ref<'edit' | 'take'>('edit')
  /** Whether the picture shows what the edit plays, or the frame of the take that is looked at. */
  const looking = computed({
    // While nothing is laid there is nothing else to see.
    get: () => (take.value && !edit.clips.length ? 'take' : asked.value),
    set: (what) => (asked.value = what),
  })
  const selection = ref<Selection>({ kind: 'none' })
  /** The tooth of a pulse that is changed alone. */
  const tooth = ref<{ pass: string; cue: string } | null>(null)
  /** The accent at hand, by its id. */
  const accent = ref<string | null>(null)
  /** The laid sound at hand, by its id. */
  const sound = ref<string | null>(null)
  /** The title at hand, by its id. */
  const title = ref<string | null>(null)

  /** Source frames against seconds of the take at hand. */
  const takeClock = computed(() => frameClock(take.value?.rate ?? '60'))
  const clipsOfTake = computed(() => edit.clips.filter((other) => other.take === takeId.value))
  const clip = computed(
    () => clipsOfTake.value.find((other) => other.id === clipId.value) ?? clipsOfTake.value[0] ?? null,
  )
  const derivedClip = computed(() => edit.derivedById.get(clip.value?.id ?? '') ?? null)
  const take = computed(() => edit.takes.find((other) => other.id === takeId.value) ?? null)
  const frames = computed(() => take.value?.frames ?? 1)
  /** What the picture rail shows of the take at hand. */
  const source = useStretch(frames, () => takeFrame.value)
  /** First and last source frame that matter at the picture rail: the clip's, or the moments' of a take not laid. */
  const mattering = computed(() => {
    const pins = derivedClip.value?.pins.map((pin) => pin.p)
    const found = pins ?? take.value?.moments?.map((moment) => moment.frame) ?? []
    return found.length ? ([Math.min(...found), Math.max(...found)] as const) : null
  })
  const frame = computed(() => edit.clock.frame(playhead.value))

  /** What fills an output frame of the edit; null is black. */
  const shownOn = (n: number) => groundOn(edit.derived?.map, n)
  const shown = computed(() => shownOn(frame.value))

  const selectedCues = computed(() => (selection.value.kind === 'cues' ? selection.value.cues : []))

  function seek(time: number): void {
    playhead.value = Math.max(0, Math.min(time, edit.over))
    looking.value = 'edit'
  }

  function seekFrame(n: number): void {
    seek(edit.clock.inside(Math.max(0, n)))
  }

  function lookAt(source: number): void {
    const last = (take.value?.frames ?? 1) - 1
    takeFrame.value = Math.max(0, Math.min(last, Math.round(source)))
    looking.value = 'take'
  }

  function select(next: Selection): void {
    selection.value = next
  }

  /** Look at a take: at the clip of it that plays, or its first one. */
  function choose(id: string | null): void {
    if (takeId.value === id) return
    const played = edit.clipById.get(shown.value?.clip ?? '')
    takeId.value = id
    clipId.value = played?.take === id ? played.id : (clipsOfTake.value[0]?.id ?? null)
    begin()
  }

  /** Look at a clip, and at its take with it. */
  function chooseClip(id: string): void {
    const found = edit.clipById.get(id)
    if (!found || clip.value?.id === id) return
    takeId.value = found.take
    clipId.value = id
    begin()
  }

  function begin(): void {
    select({ kind: 'none' })
    if (!clip.value) return lookAt(0)
    looking.value = 'edit'
    takeFrame.value = shown.value?.clip === clip.value.id ? shown.value.source : 0
  }

  function zoom(factor: number, around: number): void {
    const span = Math.max(SHORTEST_VIEW, (to.value - from.value) * factor)
    const part = (around - from.value) / (to.value - from.value)
    setView(around - part * span, around + (1 - part) * span)
  }

  function pan(by: number): void {
    setView(from.value + by, to.value + by)
  }

  function setView(start: number, end: number): void {
    const span = end - start
    const limit = (edit.end || 60) * (1 + MARGIN)
    const begin = Math.max(-MARGIN * span, Math.min(start, limit - Math.min(span, limit)))
    from.value = begin
    to.value = begin + Math.min(span, limit * 1.1)
  }

  /** Bring what matters of the take at hand into view. */
  function fitSource(): void {
    const [first, last] = mattering.value ?? [0, frames.value]
    const around = Math.max(takeClock.value.at(AROUND_SECONDS), (last - first) / 4)
    if (last - first + 2 * around > frames.value * MOST_PART) source.all()
    else source.set(first - around, last + around)
  }

  /** Bring the clip at hand into view, or the whole song when there is none; its take likewise. */
  function fit(): void {
    fitSource()
    const found = derivedClip.value
    if (!found) return setView(0, edit.end || 10)
    const start = edit.clock.time(found.first)
    const end = edit.clock.time(found.first + found.source.length)
    const margin = (end - start) * MARGIN
    setView(start - margin, end + margin)
  }

  /** Bring the clip at hand into view, and the playhead to it where it is elsewhere. */
  function goToClip(): void {
    const found = derivedClip.value
    if (!found) return
    fit()
    const inside = frame.value >= found.first && frame.value < found.first + found.source.length
    if (!inside) seekFrame(found.first)
  }

  /** Go to a clip's pin: it is selected, in view, and the playhead on it. */
  function goToPin(clip: string, pin: string): void {
    chooseClip(clip)
    select({ kind: 'pin', clip, pin })
    fit()
    const at = derivedClip.value?.pins.find((other) => other.id === pin)
    if (at) seekFrame(Math.round(at.n))
  }

  watch([takeId, () => clip.value?.id, frames], fitSource)
  // Not under a hand that drags: the frames would run away from it.
  watch([mattering, () => edit.live], ([now, live], [before]) => {
    if (live || !now) return
    const [first, last] = now
    if (!before) fitSource()
    else if (!source.holds(first) || !source.holds(last))
      source.set(Math.min(first, source.from.value), Math.max(last, source.to.value))
  })

  watch(shown, (now) => {
    if (!now || looking.value === 'take') return
    if (edit.clipById.get(now.clip)?.take === takeId.value) takeFrame.value = now.source
  })

  /** Whether pictures are shown one by one, as they are in their takes, while a key is held. */
  const unmixed = ref(false)
  /** Whether accents are shown. */
  const accented = ref(true)
  const seenAs = computed<SeenAs>(() => (unmixed.value ? 'take' : accented.value ? 'edit' : 'bare'))
  /** Up to which part of its width the picture shows something else beside the edit; null for none of it. */
  const split = ref<number | null>(null)
  const beside = ref<Exclude<SeenAs, 'edit'>>('take')
  function splitBeside(what: Exclude<SeenAs, 'edit'> | null): void {
    split.value = what && (split.value ?? 0.5)
    beside.value = what ?? beside.value
  }
  /** The take beside the edit, then the edit without accents, where it has any, then the edit alone. */
  function toggleSplit(): void {
    const on = split.value === null ? null : beside.value
    splitBeside(on === null ? 'take' : on === 'take' && edit.accents.length ? 'bare' : null)
  }

  return {
    playhead, from, to, takeId, takeFrame, looking, unmixed, accented, seenAs, split, beside, splitBeside, toggleSplit, selection, selectedCues,
    source, takeClock, clip, clipsOfTake, derivedClip, take, frame, shown, shownOn,
    tooth, accent, sound, title, seek, seekFrame, lookAt, select, choose, chooseClip, zoom, pan, fit, goToClip, goToPin, setView,
  } // prettier-ignore
})
