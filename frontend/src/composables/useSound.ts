/**
 * What is heard while the edit plays, started at exact instants of the audio clock.
 *
 * At its own speed the mix comes from the server, block by block, a few seconds ahead; at half and quarter
 * speed a slow copy of the song plays. Laps follow one another without a gap.
 */
import { BLOCK, mixBlock, slowBuffer, Sounding } from '@/composables/audio'
import { lapOf, piecesOf, type Course } from '@/lib/laps'
import { useEdit } from '@/stores/edit'

const AHEAD_SECONDS = 2.5
const SLOW_AHEAD_SECONDS = 0.5

interface Run {
  audio: AudioContext
  course: Course
  startedAt: number
}

export function useSound() {
  const edit = useEdit()
  const sounding = new Sounding()
  let now: Run | null = null
  let slow: AudioBuffer | null = null
  let lapsStarted = 0
  let pieces: ReturnType<typeof piecesOf> | null = null

  /** Have ready what is heard first. Silence where it cannot be had: the picture plays on. */
  async function prepare(audio: AudioContext, course: Course): Promise<void> {
    slow = null
    const state = edit.state
    if (!state) return
    if (course.slowness > 1) {
      const sha256 = edit.song?.media.sha256
      if (sha256) slow = await slowBuffer(audio, sha256, course.slowness as 2 | 4).catch(() => null)
    } else if (!state.mix.silent) {
      await mixBlock(state, Math.floor((course.start * state.mix.rate) / BLOCK)).catch(() => null)
    }
  }

  function begin(audio: AudioContext, course: Course, startedAt: number): void {
    now = { audio, course, startedAt }
    lapsStarted = 0
    pieces = null
    pump(0)
  }

  /** Start all that is due soon after so many heard seconds. */
  function pump(heard: number): void {
    if (!now) return
    if (now.course.slowness > 1) pumpSlow(now, heard + SLOW_AHEAD_SECONDS)
    else pumpMix(now, heard + AHEAD_SECONDS)
  }

  function pumpMix({ audio, course, startedAt }: Run, until: number): void {
    const state = edit.state
    if (!state || state.mix.silent) return
    const { rate, end } = state.mix
    pieces ??= piecesOf(course, BLOCK / rate, end)
    for (const piece of pieces.until(until)) {
      const mine = now
      void mixBlock(state, piece.block)
        .then((buffer) => {
          if (now !== mine) return
          sounding.start(audio.destination, buffer, startedAt + piece.since, piece.offset, piece.duration)
        })
        .catch(() => undefined) // a block that does not come is silent
    }
  }

  function pumpSlow({ audio, course, startedAt }: Run, until: number): void {
    const facts = edit.music
    if (!slow || !facts) return
    for (;;) {
      const next = lapOf(course, lapsStarted)
      if (!next || next.since > until) return
      lapsStarted += 1
      const { slowness } = course
      const from = Math.max(next.from, facts.heard_from)
      const to = Math.min(next.to, facts.heard_to)
      const offset = (from - (edit.song?.start ?? 0)) * slowness
      const when = startedAt + next.since + (from - next.from) * slowness
      if (to > from) sounding.start(audio.destination, slow, when, offset, (to - from) * slowness)
    }
  }

  function stop(): void {
    now = null
    sounding.stop()
  }
  return { prepare, begin, pump, stop }
}
