/** The music at hand: which cues are drawn, chosen and meant, what the first pass heard. */
import { computed, ref, shallowRef, watch } from 'vue'
import { api, take, type Analysis, type Beats, type CueKind, type CueSelection } from '@/api/client'
import { CUE_KINDS } from '@/lib/terms'
import { useEdit } from './edit'
import { useLibrary } from './library'
import { useListening } from './listening'
import { useNotices } from './notices'
import { forEdit } from './scope'

const WAIT_MS = 60
/** A first reading of the beat that is less likely asks which is right, of so many. */
const SURE = 0.85
const ASKED = 3

/** A selection that takes every cue. */
export const everything = (): CueSelection => ({
  id: 'draft',
  name: 'Draft',
  kinds: [...CUE_KINDS],
  least: 0,
  every: 1,
  phase: 0,
  begin: null,
  end: null,
  extra: [],
  without: [],
})

export const useMusic = forEdit('music', () => {
  const edit = useEdit()
  const library = useLibrary()
  const notices = useNotices()
  const listening = useListening()
  const hidden = ref(new Set<CueKind>(['note']))
  /** The cue selection being made; what it takes is drawn in full, the rest faintly. */
  const draft = ref<CueSelection>(everything())
  const chosen = shallowRef<Set<string> | null>(null)
  const analysis = shallowRef<Analysis | null>(null)

  /** The ways to count among which it is asked, the likeliest first; none where it is sure. */
  const ways = computed<Beats[]>(() => {
    const [first, ...others] = analysis.value?.beats ?? []
    return first && first.likelihood < SURE ? [first, ...others].slice(0, ASKED) : []
  })
  /** Hear the beats of one of them as clicks; again: not. */
  function tryWay(index: number): void {
    const way = ways.value[index]
    if (way) listening.tried = listening.tried === way ? null : way
  }

  const sha256 = computed(() => edit.song?.media.sha256 ?? null)
  const shown = computed(() => edit.cues.filter((cue) => !hidden.value.has(cue.kind)))
  const counts = computed(() => {
    const found = new Map<CueKind, number>()
    for (const cue of edit.cues) found.set(cue.kind, (found.get(cue.kind) ?? 0) + 1)
    return found
  })
  const lanes = computed(() => CUE_KINDS.filter((kind) => counts.value.get(kind)))
  const isChosen = (id: string) => chosen.value === null || chosen.value.has(id)

  function toggle(kind: CueKind): void {
    const next = new Set(hidden.value)
    if (!next.delete(kind)) next.add(kind)
    hidden.value = next
  }

  /** Show the lane of one kind alone; again: all of them. */
  function only(kind: CueKind): void {
    const others = lanes.value.filter((other) => other !== kind)
    const alone = !hidden.value.has(kind) && others.every((other) => hidden.value.has(other))
    hidden.value = new Set(alone ? [] : others)
  }

  let timer = 0
  /** Ask the server which cues the draft takes, a moment after it has last changed. */
  function askChosen(): void {
    clearTimeout(timer)
    timer = window.setTimeout(async () => {
      const id = edit.id
      if (!id || !edit.song) return
      const asked = api.POST('/api/edits/{id}/chosen', { params: { path: { id } }, body: draft.value })
      const found = await notices.guard(take(asked))
      if (found) chosen.value = found.cues.length === edit.cues.length ? null : new Set(found.cues)
    }, WAIT_MS)
  }
  watch([draft, () => edit.cues], askChosen, { deep: true })

  const hearing = computed(() => (sha256.value ? library.listeningTo(sha256.value) : undefined))

  watch(sha256, () => (draft.value = everything()))
  watch(
    [sha256, () => hearing.value?.id],
    async ([now]) => {
      analysis.value = null
      if (!now) return
      const params = { path: { sha256: now } }
      const found = await take(api.GET('/api/assets/{sha256}/analysis', { params })).catch(() => null)
      if (sha256.value === now) analysis.value = found
    },
    { immediate: true },
  )

  return {
    hidden,
    draft,
    chosen,
    analysis,
    ways,
    tryWay,
    hearing,
    sha256,
    shown,
    counts,
    lanes,
    isChosen,
    toggle,
    only,
  }
})
