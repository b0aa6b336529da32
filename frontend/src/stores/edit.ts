/** The open edit: its state on the server, and what would follow from a handle being dragged. */
import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import {
  api,
  Failure,
  take,
  type Command,
  type Cue,
  type CueKind,
  type Derived,
  type EditState,
  type Problem,
  type Schemas,
} from '@/api/client'
import { useNotices } from './notices'

export type PlacedCue = Cue & { kind: CueKind; at: number }

type Ask = (id: number, base: number) => Promise<EditState>

export const useEdit = defineStore('edit', () => {
  const notices = useNotices()
  const state = shallowRef<EditState | null>(null)
  const live = shallowRef<Derived | null>(null)
  const liveProblem = shallowRef<Problem | null>(null)
  const saving = ref(0)

  const edit = computed(() => state.value?.edit ?? null)
  const derived = computed(() => live.value ?? state.value?.derived ?? null)
  const song = computed(() => edit.value?.song ?? null)
  /** The cues with `at`: when each is heard, in seconds of the edit. */
  const cues = computed<PlacedCue[]>(() => {
    const start = song.value?.start ?? 0
    return (song.value?.cues ?? []).map((cue) => ({ ...cue, kind: cue.kind ?? 'hand', at: cue.time + start }))
  })
  const cueById = computed(() => new Map(cues.value.map((cue) => [cue.id, cue])))
  /** Where the music ends in the edit, in seconds. */
  const end = computed(() => (song.value ? (song.value.start ?? 0) + song.value.duration : 0))
  const takes = computed(() => edit.value?.takes ?? [])
  const clips = computed(() => edit.value?.clips ?? [])

  let last: Promise<boolean> = Promise.resolve(true)
  let waiting: Command | null = null
  let asking = false
  let generation = 0

  function show(next: EditState): void {
    generation += 1
    waiting = null
    live.value = null
    liveProblem.value = null
    state.value = next
  }

  /**
   * Do something that answers with a new state; tell the person when it is refused. Changes go
   * one after another, each based on what the one before it made.
   */
  function change(ask: Ask): Promise<boolean> {
    saving.value += 1
    return (last = last.then(() => changeNow(ask)))
  }

  async function changeNow(ask: Ask): Promise<boolean> {
    try {
      if (!state.value) return false
      show(await ask(state.value.id, state.value.revision))
      return true
    } catch (failure) {
      if (!(failure instanceof Failure)) throw failure
      settle()
      if (failure.current) show(failure.current)
      notices.problem(failure.problem)
      return false
    } finally {
      saving.value -= 1
    }
  }

  const where = (id: number) => ({ path: { id } })

  async function open(id: number): Promise<void> {
    show(await take(api.GET('/api/edits/{id}', { params: where(id) })))
  }

  const run = (command: Command) =>
    change((id, base) =>
      take(api.POST('/api/edits/{id}/commands', { params: where(id), body: { base, command } })),
    )
  const undo = () =>
    change((id, base) => take(api.POST('/api/edits/{id}/undo', { params: where(id), body: { base } })))
  const redo = () =>
    change((id, base) => take(api.POST('/api/edits/{id}/redo', { params: where(id), body: { base } })))
  const use = (asset: string) =>
    change((id, base) => take(api.POST('/api/edits/{id}/use', { params: where(id), body: { base, asset } })))
  const relink = (asset: string, takeId: string | null) =>
    change((id, base) =>
      take(api.POST('/api/edits/{id}/relink', { params: where(id), body: { base, asset, take: takeId } })),
    )

  const reread = () =>
    change((id, base) => take(api.POST('/api/edits/{id}/reread', { params: where(id), body: { base } })))
  const tap = (times: number[], tapped: Omit<Schemas['Taps'], 'base' | 'times'>) =>
    change((id, base) =>
      take(api.POST('/api/edits/{id}/taps', { params: where(id), body: { base, times, ...tapped } })),
    )
  /** Cues from a file; its name tells the format. */
  const bringCues = (file: File, replace: boolean) =>
    change((id, base) => {
      const query = new URLSearchParams({ base: String(base), name: file.name, replace: String(replace) })
      const sent = fetch(`/api/edits/${id}/cues?${query}`, { method: 'POST', body: file })
      return take<EditState>(
        sent.then(async (answer) => ({ [answer.ok ? 'data' : 'error']: await answer.json() })),
      )
    })

  /** Show what a command would do, without keeping it. The latest wish wins; one request is under way. */
  async function dryRun(command: Command): Promise<void> {
    waiting = command
    if (asking) return
    asking = true
    while (waiting && state.value) {
      const asked: Command = waiting
      const { id, revision } = state.value
      const mine = generation
      waiting = null
      try {
        const found = await take(
          api.POST('/api/edits/{id}/dry-run', {
            params: where(id),
            body: { base: revision, command: asked },
          }),
        )
        if (mine === generation) {
          live.value = found
          liveProblem.value = null
        }
      } catch (failure) {
        if (!(failure instanceof Failure)) throw failure
        if (mine === generation) liveProblem.value = failure.problem
      }
    }
    asking = false
  }

  /** Forget what was dragged and show the kept state again. */
  function settle(): void {
    generation += 1
    waiting = null
    live.value = null
    liveProblem.value = null
  }

  /** Another tab or a job moved the edit on. */
  async function catchUp(revision: number): Promise<void> {
    if (state.value && saving.value === 0 && revision !== state.value.revision) await open(state.value.id)
  }

  return {
    state, edit, derived, song, cues, cueById, end, takes, clips, live, liveProblem, saving,
    open, run, undo, redo, use, relink, reread, tap, bringCues, dryRun, settle, catchUp,
  } // prettier-ignore
})
