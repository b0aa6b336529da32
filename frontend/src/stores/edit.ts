/** The edit of the screen: its state on the server, and what would follow from a handle being dragged. */
import { computed, ref, shallowRef } from 'vue'
import {
  api,
  type Asset,
  Failure,
  json,
  take,
  type Command,
  type Cue,
  type CueKind,
  type Derived,
  type EditChanged,
  type EditState,
  type Problem,
  type Repair,
  type Schemas,
} from '@/api/client'
import type { Anchor } from '@/lib/accents'
import { derivedWith, withChange } from '@/lib/changes'
import { nearestCue } from '@/lib/cues'
import { DryRuns } from '@/lib/dryRuns'
import { frameClock } from '@/lib/frameClock'
import { fileName, momentName } from '@/lib/names'
import { AGAIN_MS } from '@/lib/news'
import { useLibrary } from './library'
import { useNotices, type Action } from './notices'
import { forEdit } from './scope'

export type PlacedCue = Cue & { kind: CueKind; at: number; frame: number }

/** Commands by which a person moves ties themselves. */
const MOVING = new Set<Command['do']>([
  'add-tie', 'change-tie', 'tie-loose', 'tie-moments', 'remove-pin', 'lay-take', 'remove-clip', 'end-clip', 'reverse-clip',
]) // prettier-ignore

type Ask = (base: number) => Promise<EditChanged>
type Shown = Pick<EditState, 'edit' | 'derived' | 'cue_frames'>

export const useEdit = forEdit('edit', (id) => {
  const notices = useNotices()
  const library = useLibrary()
  const state = shallowRef<EditState | null>(null)
  const live = shallowRef<Derived | null>(null)
  const liveProblem = shallowRef<Problem | null>(null)
  /** The edit at another revision, shown in place of what it is now; nothing is changed meanwhile. */
  const instead = shallowRef<Shown | null>(null)
  const shown = computed<Shown | null>(() => instead.value ?? state.value)
  const saving = ref(0)

  const edit = computed(() => shown.value?.edit ?? null)
  const derived = computed(() => live.value ?? shown.value?.derived ?? null)
  const song = computed(() => edit.value?.song ?? null)
  /** Output frames against seconds of the edit. */
  const clock = computed(() => frameClock(edit.value?.rate ?? '60'))
  /** The cues with `at`: when each is heard, in seconds of the edit, and the output `frame` it lands on. */
  const cues = computed<PlacedCue[]>(() => {
    const start = song.value?.start ?? 0
    const frames = shown.value?.cue_frames ?? []
    return (song.value?.cues ?? []).map((cue, index) => ({
      ...cue,
      kind: cue.kind ?? 'hand',
      at: cue.time + start,
      frame: frames[index] ?? 0,
    }))
  })
  const cueById = computed(() => new Map(cues.value.map((cue) => [cue.id, cue])))
  /** The output frame on which each cue lands. */
  const cueFrames = computed(() => new Map(cues.value.map((cue) => [cue.id, cue.frame])))
  /** Where the music ends in the edit, in seconds. */
  const end = computed(() => state.value?.music?.end ?? 0)
  /** Where all of it has ended, in seconds: where the edit says so, else the music and the last clip. */
  const over = computed(() => (derived.value?.end ? pictureEnd.value : Math.max(end.value, pictureEnd.value)))
  /** Where the picture has ended, in seconds: where the edit says so, else the last clip. */
  const pictureEnd = computed(() => {
    const { map, end: ends } = derived.value ?? {}
    return ends || map ? clock.value.time(ends?.stop ?? map!.first + map!.clip.length) : 0
  })
  /** What is to know of the music at a glance: its tempo, and when it is heard. */
  const music = computed(() => state.value?.music ?? null)
  const clipById = computed(() => new Map((edit.value?.clips ?? []).map((clip) => [clip.id, clip])))
  const derivedById = computed(() => new Map((derived.value?.clips ?? []).map((clip) => [clip.id, clip])))
  /** What to call each clip: its take's name, and its own number where the take has several: that never changes. */
  const clipNames = computed(() => {
    const files = new Map((edit.value?.takes ?? []).map((take) => [take.id, fileName(take.media.name)]))
    const seen = new Map<string, string[]>()
    for (const clip of edit.value?.clips ?? []) seen.set(clip.take, [...(seen.get(clip.take) ?? []), clip.id])
    const names = new Map<string, string>()
    for (const [take, ids] of seen) {
      const name = files.get(take) ?? 'a take that is gone'
      for (const id of ids) names.set(id, ids.length > 1 ? `${name}, ${id.replace(/^clip-/, '')}` : name)
    }
    return names
  })
  /** Where all ties landed, clip by clip. */
  const landings = computed(() => (derived.value?.clips ?? []).flatMap((clip) => clip.landings))
  const takes = computed(() => edit.value?.takes ?? [])
  const clips = computed(() => edit.value?.clips ?? [])
  const accents = computed(() => edit.value?.accents ?? [])
  const sounds = computed(() => edit.value?.sounds ?? [])
  const titles = computed(() => edit.value?.titles ?? [])
  const notes = computed(() => edit.value?.notes ?? [])
  /** The take that a clip shows. */
  const takeOf = (clip: string) => takes.value.find(({ id }) => id === clipById.value.get(clip)?.take)
  /** The output frame of a place that says one, or follows a cue. */
  const frameOf = ({ n, cue }: { n?: number | null; cue?: string | null }) =>
    cue ? (cueFrames.value.get(cue) ?? 0) : (n ?? 0)

  /** What a command is told of a place: the cue that it follows, or its output frame. */
  const placeOf = ({ n, cue }: { n?: number | null; cue?: string | null }) => cue ?? n ?? 0
  /** The cue that lands on an output frame, else the frame: what stands there follows the music where it can. */
  function placeOn(frame: number): string | number {
    const near = nearestCue(cues.value, clock.value.time(frame))
    return near?.frame === frame ? near.id : frame
  }

  let last: Promise<boolean> = Promise.resolve(true)
  let waiting: Command | null = null
  let asking = false
  let generation = 0
  let dryRuns = new DryRuns(id, 0)
  /** The revision that was heard of last, until it is shown. */
  let heard: number | null = null

  function show(next: EditState): void {
    // An answer about another edit is none.
    if (next.id !== id) return
    // Read again because late news told of a change that is known: what is shown in its place, what a hand drags
    // and what was refused since stand.
    if (state.value?.revision !== next.revision) {
      settle()
      instead.value = null
      notices.gone('edit')
      dryRuns = new DryRuns(id, next.revision)
    }
    state.value = next
    notices.gone('answer')
  }

  /** Show the edit as it was at another revision, with all that followed; or as it is again. */
  function showInstead(past: EditState | null): void {
    settle()
    instead.value = past
  }

  /**
   * Do something that answers with a new state; tell the person when it is refused. Changes go
   * one after another, each based on what the one before it made.
   */
  function change(ask: Ask, command?: Command): Promise<boolean> {
    if (instead.value) {
      notices.news('B is shown. Go back to A to change it, or take B.')
      return Promise.resolve(false)
    }
    saving.value += 1
    return (last = last.catch(() => false).then(() => changeNow(ask, command)))
  }

  async function changeNow(ask: Ask, command?: Command): Promise<boolean> {
    try {
      if (!state.value) return false
      const before = state.value
      const change = await ask(before.revision)
      // Another tab's change may have come in between: then only the whole state is sure.
      if (state.value.revision === change.base) {
        settle()
        show(withChange(state.value, change))
      } else await open()
      tell(change.consequences, command)
      return true
    } catch (failure) {
      if (!(failure instanceof Failure)) throw failure
      settle()
      if (failure.current) show(failure.current)
      problem(failure, (failure.problem.repairs ?? []).map(repairing))
      return false
    } finally {
      saving.value -= 1
      void followHeard()
    }
  }

  /** Tell why something about the edit was refused, until the edit changes. */
  function problem(failure: Failure, actions: Action[] = []): void {
    const { about, where } = failure.problem
    const named = about ? placeName(about) : where
    notices.problem(new Failure({ ...failure.problem, where: named }), actions, 'edit')
  }

  /** What a refusal is about, in words: the core names clips, takes, pins and moments by id. */
  function placeName({ clips = [], take, pin, moment }: Schemas['Place']): string {
    const ids = [...clips, ...(take ? [take] : [])]
    const clip = clipById.value.get(clips[0] ?? '')
    const id = clip?.pins.find((other) => other.id === pin)?.moment ?? moment
    const of = takes.value.find((other) => other.id === (clip?.take ?? take))
    const found = of?.moments?.find((each) => each.id === id)
    const names = ids.map(nameOf).filter((name) => name !== undefined)
    return [names.join(' and '), ...(found ? [momentName(found)] : [])].filter(Boolean).join(', ')
  }
  const nameOf = (id: string) =>
    clipNames.value.get(id) ?? takes.value.find((take) => take.id === id)?.media.name

  const repairing = ({ label, commands }: Repair) => ({
    label,
    act: async () => void (await runAll(commands as Command[])),
  })

  /** What a person did with their own hand they know; what hangs on it they are told. */
  function tell(found: Schemas['Consequence'][], command?: Command): void {
    const moving = command && MOVING.has(command.do)
    const said = found.filter(({ code }) => !(moving && code === 'ties-moved'))
    if (said.length) notices.news(`${said.map(({ text }) => text).join(', ')}.`)
  }

  const params = { path: { id } }

  async function open(): Promise<void> {
    show(await take(api.GET('/api/edits/{id}', { params })))
    await renewBundles()
    await followHeard()
  }

  /** What changed inside a bundle shows outside: the edit moves on when it has been made anew. */
  async function renewBundles(): Promise<void> {
    if (Object.values(state.value?.bundles ?? {}).includes('behind'))
      await notices.guard(take(api.POST('/api/edits/{id}/renew-bundles', { params })))
  }

  const run = (command: Command): Promise<boolean> =>
    change((base) => take(api.POST('/api/edits/{id}/commands', { params, body: { base, command } })), command)
  /** Several commands as one step: all of them, or none. */
  const runAll = ([first, ...more]: Command[]): Promise<boolean> =>
    !first ? Promise.resolve(true) : run(more.length ? { do: 'batch', commands: [first, ...more] } : first)
  const goTo = (revision: number) =>
    change((base) => take(api.POST('/api/edits/{id}/go', { params, body: { base, revision } })))
  const changeSong = (
    asset: string,
    of: number | null,
    to: Record<string, string | null>,
    places: Record<string, number>,
  ) =>
    change((base) =>
      take(api.POST('/api/edits/{id}/change-song', { params, body: { base, asset, edit: of, to, places } })),
    )
  const undo = () => change((base) => take(api.POST('/api/edits/{id}/undo', { params, body: { base } })))
  const redo = () => change((base) => take(api.POST('/api/edits/{id}/redo', { params, body: { base } })))
  const use = ({ sha256: asset, kind }: Asset) =>
    change((base) => take(api.POST('/api/edits/{id}/use', { params, body: { base, asset, kind } })))
  /** Lay an audio file of the shelf as a sound. */
  const laySound = (asset: string, at: Anchor) =>
    change((base) => take(api.POST('/api/edits/{id}/sounds', { params, body: { base, asset, at } })))
  /** Have clips, or another edit, made into one take; the edit moves on when that is done. */
  const bundle = async (of: Partial<Schemas['NewBundle']>) => {
    if (!state.value) return
    const { revision: base } = state.value
    const asked = api.POST('/api/edits/{id}/bundle', {
      params,
      body: { clips: [], title: 'Bundle', ...of, base },
    })
    await library.start(asked)
  }
  /** The file of a take, of a laid sound, or of the song, by what it is called where it is missing. */
  function mediaOf(id: string) {
    if (id === 'song') return song.value?.media
    const what = sounds.value.find((sound) => sound.id === id)?.what
    return what?.kind === 'file' ? what.media : takes.value.find((take) => take.id === id)?.media
  }
  const isTake = (id: string) => takes.value.some((take) => take.id === id)

  /** Another file in the place of one that is missing. */
  const relink = (asset: string, missing: string) =>
    change((base) => {
      const of = missing === 'song' ? {} : isTake(missing) ? { take: missing } : { sound: missing }
      return take(api.POST('/api/edits/{id}/relink', { params, body: { base, asset, ...of } }))
    })

  /** Whether a file that came is one that the edit missed, known by its content: it is in its place again. */
  async function found({ sha256 }: Asset): Promise<boolean> {
    const missed = state.value?.missing.some((id) => mediaOf(id)?.sha256 === sha256)
    if (missed) await open()
    return missed ?? false
  }

  const analyseAgain = () =>
    change((base) => take(api.POST('/api/edits/{id}/analyse-again', { params, body: { base } })))
  const tap = (times: number[], tapped: Omit<Schemas['Taps'], 'base' | 'times'>) =>
    change((base) => take(api.POST('/api/edits/{id}/taps', { params, body: { base, times, ...tapped } })))
  /** Notes from a file that a review page saved. */
  const bringNotes = (file: File) =>
    change((base) => {
      const query = new URLSearchParams({ base: String(base), name: file.name })
      return json<EditChanged>(`/api/edits/${id}/notes?${query}`, { method: 'POST', body: file })
    })
  /** Cues from a file; its name tells the format. */
  const bringCues = (file: File, replace: boolean) =>
    change((base) => {
      const query = new URLSearchParams({ base: String(base), name: file.name, replace: String(replace) })
      return json<EditChanged>(`/api/edits/${id}/cues?${query}`, { method: 'POST', body: file })
    })

  /**
   * Show what a command would do, without keeping it. The latest wish wins; one request is under way.
   * ``next`` is what may well be wished for after it, the likeliest first: it is asked while the hand is on
   * its way there.
   */
  async function dryRun(command: Command, ...next: Command[]): Promise<void> {
    if (instead.value) return
    waiting = command
    if (asking) return
    asking = true
    try {
      while (waiting && state.value) {
        const asked: Command = waiting
        waiting = null
        await askDry(state.value.derived, asked)
      }
    } finally {
      asking = false
    }
    if (!asking) await foresee(...next)
  }

  /** Ask what may be wished for soon, the likeliest first, so that it is answered at once. */
  const foresee = (...next: Command[]) => dryRuns.foresee(next)

  async function askDry(before: Derived, command: Command): Promise<void> {
    const mine = generation
    try {
      const change = await dryRuns.of(command)
      if (mine !== generation) return
      live.value = derivedWith(before, change)
      liveProblem.value = null
    } catch (failure) {
      if (!(failure instanceof Failure)) throw failure
      if (mine === generation) liveProblem.value = failure.problem
    }
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
    heard = revision
    await followHeard()
  }

  /** Read the edit again when another revision was heard of; while it is read or saved, that has to wait. */
  async function followHeard(): Promise<void> {
    if (!state.value || saving.value || heard === null) return
    const revision = heard
    heard = null
    if (revision === state.value.revision) return
    try {
      await open()
    } catch (failure) {
      if (!(failure instanceof Failure && failure.passing)) throw failure
      heard ??= revision
      setTimeout(() => void followHeard(), AGAIN_MS)
    }
  }

  return {
    id, state, edit, derived, problem, song, clock, cues, cueById, cueFrames, end, over, pictureEnd, music, takes, clips, accents, sounds, titles, notes, takeOf, frameOf, placeOf, placeOn, clipById, clipNames, derivedById, landings,
    live, liveProblem, instead, showInstead, saving,
    open, run, runAll, goTo, changeSong, undo, redo, use, laySound, bundle, mediaOf, isTake, relink, found, analyseAgain, tap, bringCues, bringNotes, dryRun, foresee, settle, catchUp,
  } // prettier-ignore
})
