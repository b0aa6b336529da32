/**
 * Playing the edit: the picture follows the audio clock.
 *
 * The audio hardware's own time stamp is smoothed, because it moves in steps, and an output
 * frame is kept until the clock has left it by more than a little, because clock and screen
 * beat against each other. Late frames and the greatest drift are counted and shown.
 */
import { onScopeDispose, reactive, watch } from 'vue'
import { partOf } from '@/api/client'
import { packOf } from '@/composables/usePack'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'

const HYSTERESIS_FRAMES = 0.6
const SMOOTHING = 0.08
const JUMP_SECONDS = 0.08
const AHEAD_FRAMES = 24
const CLICK_AHEAD_SECONDS = 0.25
const START_DELAY_SECONDS = 0.06

const CLICK_HERTZ: Record<string, number> = {
  beat: 1400, downbeat: 2000, kick: 500, snare: 900, hat: 3200, bass: 350, drop: 700, roll: 1100, hand: 1700,
} // prettier-ignore

export interface PlaybackStats {
  playing: boolean
  drawn: number
  late: number
  /** Greatest lasting distance between the middle of the frame shown and the audio clock, in output frames. */
  drift: number
}

export type ShowFrame = (bitmap: ImageBitmap | null) => void

let context: AudioContext | null = null
const buffers = new Map<string, Promise<AudioBuffer>>()

function songBuffer(audio: AudioContext, sha256: string): Promise<AudioBuffer> {
  let buffer = buffers.get(sha256)
  if (!buffer) {
    buffer = fetch(partOf(sha256, 'song.flac'))
      .then((answer) => answer.arrayBuffer())
      .then((bytes) => audio.decodeAudioData(bytes))
    buffer.catch(() => buffers.delete(sha256))
    buffers.set(sha256, buffer)
  }
  return buffer
}

export function usePlayback(show: ShowFrame) {
  const edit = useEdit()
  const view = useView()
  const stats = reactive<PlaybackStats>({ playing: false, drawn: 0, late: 0, drift: 0 })
  let source: AudioBufferSourceNode | null = null
  let clickGain: GainNode | null = null
  let request = 0
  let startedAt = 0
  let startedFrom = 0
  let smooth = 0
  let lastTick = 0
  let frame = -1
  let clickedUntil = 0
  let drifted = 0
  let fetchedUntil = 0

  async function play(): Promise<void> {
    if (stats.playing || !edit.edit) return
    const audio = (context ??= new AudioContext({ latencyHint: 'interactive' }))
    void audio.resume()
    stats.playing = true
    const sha256 = edit.song?.media.sha256
    const buffer = sha256 ? await songBuffer(audio, sha256).catch(() => null) : null
    if (!stats.playing) return
    await warmUp()
    startedAt = audio.currentTime + START_DELAY_SECONDS
    startedFrom = view.playhead
    if (buffer) {
      source = new AudioBufferSourceNode(audio, { buffer })
      source.connect(audio.destination)
      source.start(startedAt, startedFrom)
    }
    clickGain = new GainNode(audio, { gain: 0.5 })
    clickGain.connect(audio.destination)
    Object.assign(stats, { drawn: 0, late: 0, drift: 0 })
    smooth = startedFrom - START_DELAY_SECONDS
    lastTick = performance.now()
    frame = Math.floor(startedFrom * view.outputRate) - 1
    clickedUntil = startedFrom
    view.looking = 'edit'
    request = requestAnimationFrame(tick)
  }

  function stop(): void {
    if (!stats.playing) return
    stats.playing = false
    cancelAnimationFrame(request)
    source?.stop()
    source?.disconnect()
    clickGain?.disconnect()
    source = clickGain = null
  }

  const toggle = () => (stats.playing ? stop() : void play())

  /** Where the song is that is being heard now, in seconds, as the hardware says. */
  function heardNow(audio: AudioContext): number {
    const stamp = audio.getOutputTimestamp()
    const known = stamp.contextTime && stamp.performanceTime
    const heard = known
      ? stamp.contextTime! + (performance.now() - stamp.performanceTime!) / 1000
      : audio.currentTime - audio.baseLatency
    return startedFrom + heard - startedAt
  }

  function tick(): void {
    const audio = context
    if (!stats.playing || !audio) return
    request = requestAnimationFrame(tick)
    const now = performance.now()
    const heard = heardNow(audio)
    smooth += (now - lastTick) / 1000
    lastTick = now
    const error = heard - smooth
    smooth += Math.abs(error) > JUMP_SECONDS ? error : error * SMOOTHING
    if (smooth < startedFrom) return
    scheduleClicks(audio, smooth)
    const end = edit.song?.duration ?? Infinity
    if (smooth >= end) {
      view.playhead = end
      return stop()
    }
    draw(nextFrame(smooth * view.outputRate), heard)
  }

  function nextFrame(position: number): number {
    if (Math.abs(position - (frame + 0.5)) <= HYSTERESIS_FRAMES) return frame
    const next = frame + 1
    return Math.abs(position - (next + 0.5)) <= HYSTERESIS_FRAMES ? next : Math.floor(position)
  }

  function draw(next: number, heard: number): void {
    if (next === frame) return
    const passed = Math.max(0, next - frame - 1)
    const inside = covers(next)
    frame = next
    view.playhead = (frame + 1e-3) / view.outputRate
    if (!inside) return show(null)
    stats.late += passed
    // The hardware's clock moves in steps; drift is what stays when they are smoothed away.
    drifted += (heard * view.outputRate - (frame + 0.5) - drifted) * SMOOTHING
    stats.drift = Math.max(stats.drift, Math.abs(drifted))
    const bitmap = bitmapOf(frame)
    if (bitmap) {
      stats.drawn += 1
      show(bitmap)
    } else {
      stats.late += 1
    }
    while (fetchedUntil < frame + AHEAD_FRAMES) void fetchOf((fetchedUntil += 1))
  }

  function covers(n: number): boolean {
    const map = edit.derived?.map
    return !!map && n >= map.first && (map.clip[n - map.first] ?? -1) >= 0
  }

  function pictureOf(n: number): { sha256: string; source: number } | null {
    const map = edit.derived?.map
    if (!map || !covers(n)) return null
    const clip = edit.clips[map.clip[n - map.first] ?? -1]
    const sha256 = edit.takes.find((take) => take.id === clip?.take)?.media.sha256
    return sha256 ? { sha256, source: map.source[n - map.first] ?? 0 } : null
  }

  function bitmapOf(n: number): ImageBitmap | null {
    const picture = pictureOf(n)
    return picture && packOf(picture.sha256).ready(picture.source)
  }

  function fetchOf(n: number): Promise<ImageBitmap | null> {
    const picture = pictureOf(n)
    return picture ? packOf(picture.sha256).get(picture.source) : Promise.resolve(null)
  }

  async function warmUp(): Promise<void> {
    const start = Math.floor(view.playhead * view.outputRate)
    drifted = 0
    fetchedUntil = start + AHEAD_FRAMES - 1
    await Promise.all(Array.from({ length: AHEAD_FRAMES }, (_, ahead) => fetchOf(start + ahead)))
  }

  function scheduleClicks(audio: AudioContext, position: number): void {
    const until = position + CLICK_AHEAD_SECONDS
    if (view.clicks && clickGain) {
      for (const cue of edit.cues) {
        if (cue.time >= clickedUntil && cue.time < until)
          click(audio, clickGain, cue.kind ?? 'hand', cue.time)
      }
    }
    clickedUntil = until
  }

  function click(audio: AudioContext, out: AudioNode, kind: string, time: number): void {
    const at = Math.max(audio.currentTime, startedAt + time - startedFrom)
    const tone = new OscillatorNode(audio, { frequency: CLICK_HERTZ[kind] ?? 1000, type: 'square' })
    const gain = new GainNode(audio, { gain: 0 })
    gain.gain.setValueAtTime(0.4, at)
    gain.gain.exponentialRampToValueAtTime(0.001, at + 0.03)
    tone.connect(gain).connect(out)
    tone.start(at)
    tone.stop(at + 0.04)
  }

  /** The instant that is heard right now, for a tap. */
  function now(): number {
    return stats.playing && context ? Math.max(0, heardNow(context)) : view.playhead
  }

  // A seek while playing starts again from there; the playhead's own steps are not seeks.
  watch(
    () => view.playhead,
    (time) => {
      if (!stats.playing || Math.abs(time * view.outputRate - frame) < 1) return
      stop()
      void play()
    },
  )
  onScopeDispose(stop)
  return { stats, play, stop, toggle, now }
}

export type Playback = ReturnType<typeof usePlayback>
