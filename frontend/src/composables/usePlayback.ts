/**
 * Playing the edit: the picture follows the audio clock.
 *
 * The audio hardware's own time stamp is smoothed, because it moves in steps, and an output
 * frame is kept until the clock has left it by more than a little, because clock and screen
 * beat against each other. Late frames and the greatest drift are counted and shown.
 */
import { onScopeDispose, reactive, watch } from 'vue'
import { useSeen, type Seen } from '@/composables/useSeen'
import { audioClock, heardOn } from '@/composables/audio'
import { useSound } from '@/composables/useSound'
import { click } from '@/lib/clicks'
import { lapOf, placeAt, type Course } from '@/lib/laps'
import type { Stack } from '@/lib/stack'
import { useEdit } from '@/stores/edit'
import { useListening } from '@/stores/listening'
import { useLayout } from '@/stores/layout'
import { useMontage } from '@/stores/montage'
import { useMusic } from '@/stores/music'
import { useView } from '@/stores/view'

const HYSTERESIS_FRAMES = 0.6
const SMOOTHING = 0.08
const JUMP_SECONDS = 0.08
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
  let smooth = 0
  let lastTick = 0
  let frame = -1
  let lap = 0
  let clickedUntil = 0
  let drifted = 0
  let fetchedUntil = 0

  async function play(): Promise<void> {
    if (stats.playing || !edit.edit) return
    const audio = (clock = audioClock(edit.state?.mix.rate))
    stats.playing = true
    const { loop } = listening
    const { range } = montage
    const outside = range && (view.playhead < range.from || view.playhead >= range.to - 1e-6)
    const start = loop && view.playhead >= loop.to ? loop.from : outside ? range.from : view.playhead
    const slowness = listening.preparing ? 1 : listening.slowness
    course = { start, end: endFrom(start), loop, slowness }
    await Promise.all([sound.prepare(audio, course), warmUp(start)])
    if (!stats.playing) return
    startedAt = audio.currentTime + START_DELAY_SECONDS
    clickGain = new GainNode(audio, { gain: listening.level })
    clickGain.connect(audio.destination)
    Object.assign(stats, { drawn: 0, late: 0, drift: 0 })
    smooth = -START_DELAY_SECONDS
    lastTick = performance.now()
    frame = Math.floor(start * view.outputRate) - 1
    lap = clickedUntil = 0
    sound.begin(audio, course, startedAt)
    view.looking = 'edit'
    request = requestAnimationFrame(tick)
  }

  /** Where playing ends: with the clip at hand on its own desk, else with the range, or with the edit. */
  function endFrom(start: number): number {
    const clip = view.derivedClip
    if (layout.desk === 'clip' && clip) {
      const [from, to] = [clip.first, clip.first + clip.source.length].map((n) => n / view.outputRate)
      // Its last frame stays on the screen.
      if (start >= from! && start < to! - 1.5 / view.outputRate) return to! - 0.5 / view.outputRate
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
    const now = performance.now()
    const heard = heardOn(audio) - startedAt
    smooth += (now - lastTick) / 1000
    lastTick = now
    const error = heard - smooth
    smooth += Math.abs(error) > JUMP_SECONDS ? error : error * SMOOTHING
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
      frame = Math.floor(place.time * view.outputRate) - 1
      fetchedUntil = frame
    }
    const sounding = placeAt(course, Math.max(0, heard))
    draw(nextFrame(place.time * view.outputRate), sounding.lap === lap ? sounding.time : place.time)
  }

  function nextFrame(position: number): number {
    if (Math.abs(position - (frame + 0.5)) <= HYSTERESIS_FRAMES) return frame
    const next = frame + 1
    return Math.abs(position - (next + 0.5)) <= HYSTERESIS_FRAMES ? next : Math.floor(position)
  }

  function draw(next: number, heard: number): void {
    if (next === frame) return
    const passed = Math.max(0, next - frame - 1)
    const inside = seen.on(next) !== null
    frame = next
    view.playhead = (frame + 1e-3) / view.outputRate
    if (!inside) return show(null)
    stats.late += passed
    // The hardware's clock moves in steps; drift is what stays when they are smoothed away.
    drifted += (heard * view.outputRate - (frame + 0.5) - drifted) * SMOOTHING
    if (course.slowness === 1) stats.drift = Math.max(stats.drift, Math.abs(drifted))
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
    const start = Math.floor(time * view.outputRate)
    drifted = 0
    fetchedUntil = start + AHEAD_FRAMES - 1
    await Promise.all(Array.from({ length: AHEAD_FRAMES }, (_, ahead) => seen.get(start + ahead)))
  }

  function scheduleClicks(audio: AudioContext, heard: number): void {
    const until = heard + AHEAD_SECONDS
    if (listening.clicks && clickGain) {
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
    for (const cue of music.shown) {
      if (cue.at < now.from || cue.at >= now.to) continue
      const since = now.since + (cue.at - now.from) * course.slowness
      if (since < clickedUntil || since >= until) continue
      const level = listening.levels[cue.kind]
      if (!level || !music.isChosen(cue.id)) continue
      const loudness = level * (WEAKEST_CLICK + (1 - WEAKEST_CLICK) * (cue.strength ?? 1))
      const at = Math.max(audio.currentTime, startedAt + since)
      click(audio, out, { kind: cue.kind, level: loudness, at })
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
      if (Math.abs(time * view.outputRate - frame) >= 1) again()
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
