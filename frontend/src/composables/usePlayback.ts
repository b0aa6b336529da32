/** Playing the edit: the picture follows the audio clock. Late frames and the greatest drift are counted and shown. */
import { onScopeDispose, reactive, watch } from 'vue'
import type { CueKind } from '@/api/client'
import { useSeen, type Seen } from '@/composables/useSeen'
import { audioClock, heardOn } from '@/composables/audio'
import { useSound } from '@/composables/useSound'
import { click } from '@/lib/clicks'
import { lapOf, placeAt, type Course } from '@/lib/laps'
import { PictureClock } from '@/lib/pictureClock'
import { isLess } from '@/lib/rounding'
import type { Stack } from '@/lib/stack'
import { useEdit } from '@/stores/edit'
import { useListening } from '@/stores/listening'
import { useLayout } from '@/stores/layout'
import { useMontage } from '@/stores/montage'
import { useMusic } from '@/stores/music'
import { useView } from '@/stores/view'

const AHEAD_FRAMES = 24
const AHEAD_SECONDS = 0.25
const START_DELAY_SECONDS = 0.06
/** Level of the click of a cue of strength 0, against that of strength 1. */
const WEAKEST_CLICK = 0.35

export interface PlaybackStats {
  playing: boolean
  drawn: number
  late: number
  /** Greatest lasting distance between the middle of the frame shown and the audio clock, in output frames. */
  drift: number
}

/** Shows a stack of pictures; null is black. */
export type ShowFrame = (stack: Stack<Seen> | null) => void

export function usePlayback(show: ShowFrame) {
  const edit = useEdit()
  const view = useView()
  const music = useMusic()
  const montage = useMontage()
  const layout = useLayout()
  const listening = useListening()
  const stats = reactive<PlaybackStats>({ playing: false, drawn: 0, late: 0, drift: 0 })
  /** Known from the first time that something is played. */
  let clock: AudioContext | null = null
  const sound = useSound()
  const seen = useSeen()
  let clickGain: GainNode | null = null
  let course: Course = { start: 0, end: 0, loop: null, slowness: 1 }
  let request = 0
  let startedAt = 0
  let paced = new PictureClock(0, 0)
  let frame = -1
  let lap = 0
  let clickedUntil = 0
  let fetchedUntil = 0

  async function play(): Promise<void> {
    if (stats.playing || !edit.edit) return
    const audio = (clock = audioClock(edit.state?.mix.rate))
    stats.playing = true
    const { loop } = listening
    const { range } = montage
    const outside = range && (view.playhead < range.from || !isLess(view.playhead, range.to))
    const start = loop && view.playhead >= loop.to ? loop.from : outside ? range.from : view.playhead
    const slowness = listening.preparing ? 1 : listening.slowness
    course = { start, end: endFrom(start), loop, slowness }
    await Promise.all([sound.prepare(audio, course), warmUp(start)])
    if (!stats.playing) return
    startedAt = audio.currentTime + START_DELAY_SECONDS
    clickGain = new GainNode(audio, { gain: listening.level })
    clickGain.connect(audio.destination)
    Object.assign(stats, { drawn: 0, late: 0, drift: 0 })
    paced = new PictureClock(-START_DELAY_SECONDS, performance.now() / 1000)
    frame = edit.clock.frame(start) - 1
    lap = clickedUntil = 0
    sound.begin(audio, course, startedAt)
    view.looking = 'edit'
    request = requestAnimationFrame(tick)
  }

  /** Where playing ends: with the clip at hand on its own desk, else with the range, or with the edit. */
  function endFrom(start: number): number {
    const clip = view.derivedClip
    if (layout.desk === 'clip' && clip) {
      const last = clip.first + clip.source.length - 1
      const at = edit.clock.at(start)
      // Its last frame stays on the screen.
      if (at >= clip.first && at < last - 0.5) return edit.clock.time(last + 0.5)
    }
    return montage.range?.to ?? edit.over
  }

  function stop(): void {
    if (!stats.playing) return
    stats.playing = false
    cancelAnimationFrame(request)
    sound.stop()
    clickGain?.disconnect()
    clickGain = null
  }

  const toggle = () => (stats.playing ? stop() : void play())

  function tick(): void {
    const audio = clock
    if (!stats.playing || !audio) return
    request = requestAnimationFrame(tick)
    const heard = heardOn(audio) - startedAt
    const smooth = paced.heard(heard, performance.now() / 1000)
    if (smooth < 0) return
    sound.pump(smooth)
    scheduleClicks(audio, smooth)
    const place = placeAt(course, smooth)
    if (place.over) {
      view.playhead = place.time
      return stop()
    }
    if (place.lap !== lap) {
      lap = place.lap
      frame = edit.clock.frame(place.time) - 1
      fetchedUntil = frame
    }
    const sounding = placeAt(course, Math.max(0, heard))
    draw(paced.next(frame, edit.clock.at(place.time)), sounding.lap === lap ? sounding.time : place.time)
  }

  function draw(next: number, heard: number): void {
    if (next === frame) return
    const passed = Math.max(0, next - frame - 1)
    const inside = seen.on(next) !== null
    frame = next
    view.playhead = edit.clock.inside(frame)
    if (!inside) return show(null)
    stats.late += passed
    if (course.slowness === 1) stats.drift = Math.max(stats.drift, paced.drift(frame, edit.clock.at(heard)))
    const stack = seen.ready(frame)
    if (stack) {
      stats.drawn += 1
      show(stack)
    } else {
      stats.late += 1
    }
    while (fetchedUntil < frame + AHEAD_FRAMES) void seen.get((fetchedUntil += 1))
  }

  async function warmUp(time: number): Promise<void> {
    const start = edit.clock.frame(time)
    fetchedUntil = start + AHEAD_FRAMES - 1
    await Promise.all(Array.from({ length: AHEAD_FRAMES }, (_, ahead) => seen.get(start + ahead)))
  }

  function scheduleClicks(audio: AudioContext, heard: number): void {
    const until = heard + AHEAD_SECONDS
    if ((listening.clicks || listening.tried) && clickGain) {
      const first = placeAt(course, clickedUntil).lap
      const last = placeAt(course, until).lap
      for (let number = first; number <= last; number += 1) clickLap(audio, clickGain, number, until)
    }
    clickedUntil = until
  }

  /** The clicks of one lap that are due before ``until`` heard seconds. */
  function clickLap(audio: AudioContext, out: AudioNode, number: number, until: number): void {
    const now = lapOf(course, number)
    if (!now) return
    for (const { kind, at, level } of marks()) {
      if (at < now.from || at >= now.to) continue
      const since = now.since + (at - now.from) * course.slowness
      if (since < clickedUntil || since >= until) continue
      click(audio, out, { kind, level, at: Math.max(audio.currentTime, startedAt + since) })
    }
  }

  /** What is heard as clicks: the beats of a way to count that is tried, else the cues. */
  function* marks(): Generator<{ kind: CueKind; at: number; level: number }> {
    const { tried } = listening
    if (tried) {
      const start = edit.song?.start ?? 0
      for (const [i, time] of tried.times.entries())
        yield { kind: (i - tried.downbeat) % tried.meter ? 'beat' : 'downbeat', at: time + start, level: 1 }
      return
    }
    for (const { id, kind, at, strength } of music.shown) {
      const level = listening.levels[kind] * (WEAKEST_CLICK + (1 - WEAKEST_CLICK) * (strength ?? 1))
      if (level && music.isChosen(id)) yield { kind, at, level }
    }
  }

  /** The instant of the edit that is heard right now, for a tap. */
  function now(): number {
    if (!stats.playing || !clock) return view.playhead
    const heard = heardOn(clock) - startedAt - listening.latency
    return placeAt(course, Math.max(0, heard)).time
  }

  function again(): void {
    if (!stats.playing) return
    stop()
    void play()
  }

  // A seek while playing starts again from there; the playhead's own steps are not seeks.
  watch(
    () => view.playhead,
    (time) => {
      if (Math.abs(edit.clock.at(time) - frame) >= 1) again()
    },
  )
  watch(() => [listening.loop, listening.slowness, listening.preparing], again)
  watch(
    () => listening.level,
    (level) => clickGain && (clickGain.gain.value = level),
  )
  onScopeDispose(stop)
  return { stats, play, stop, toggle, now }
}

export type Playback = ReturnType<typeof usePlayback>
