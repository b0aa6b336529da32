/** A choice of cues for work on many: all of a kind, or a kept selection. */
import { computed, ref } from 'vue'
import { api, take, type CueKind } from '@/api/client'
import { useEdit } from '@/stores/edit'
import { useNotices } from '@/stores/notices'

const PLAIN = { downbeat: 'every downbeat', beat: 'every beat', kick: 'every kick', snare: 'every snare' }
type Plain = keyof typeof PLAIN

export function useCueChoice() {
  const edit = useEdit()
  const notices = useNotices()
  const on = ref('downbeat')
  const choices = computed(() => [
    ...Object.entries(PLAIN)
      .filter(([kind]) => edit.cues.some((cue) => cue.kind === kind))
      .map(([value, text]) => ({ value, text })),
    ...(edit.song?.selections ?? []).map((each) => ({ value: each.id, text: each.name })),
  ])
  /** The kept selection that is chosen, if it is one. */
  const kept = computed(() => edit.song?.selections?.find((each) => each.id === on.value))
  // A downbeat is a beat too.
  const kinds = computed<CueKind[]>(() => (on.value === 'beat' ? ['beat', 'downbeat'] : [on.value as Plain]))

  /** The chosen cues between two instants of the edit, both included. */
  async function cuesOf(begin: number, end: number): Promise<string[]> {
    const inside = edit.cues.filter((cue) => cue.at >= begin && cue.at <= end)
    const selection = kept.value
    if (!selection || !edit.state)
      return inside.filter((cue) => kinds.value.includes(cue.kind)).map((cue) => cue.id)
    const asked = api.POST('/api/edits/{id}/chosen', {
      params: { path: { id: edit.id } },
      body: selection,
    })
    const found = new Set((await notices.guard(take(asked)))?.cues ?? [])
    return inside.filter((cue) => found.has(cue.id)).map((cue) => cue.id)
  }
  /** The chosen cues that lie on a clip; of a kept selection its id, for that is followed. */
  async function onClip(clip: string): Promise<{ cues?: string[]; selection?: string }> {
    if (kept.value) return { selection: kept.value.id }
    const derived = edit.derivedById.get(clip)
    const [first, count] = [derived?.first ?? 0, derived?.source.length ?? 0]
    return { cues: await cuesOf(edit.clock.time(first), edit.clock.time(first + count - 1)) }
  }
  return { on, choices, kept, cuesOf, onClip }
}
