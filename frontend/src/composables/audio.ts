/** The audio clock, and songs as sound for it. */
import { partOf } from '@/api/client'

let context: AudioContext | null = null
const buffers = new Map<string, Promise<AudioBuffer>>()

/** The audio clock, started if it was not: for the calibration of taps too. */
export function audioClock(): AudioContext {
  context ??= new AudioContext({ latencyHint: 'interactive' })
  void context.resume()
  return context
}

/** What the hardware sounds now, on the audio clock. */
export function heardOn(audio: AudioContext): number {
  const stamp = audio.getOutputTimestamp()
  const known = stamp.contextTime && stamp.performanceTime
  return known
    ? stamp.contextTime! + (performance.now() - stamp.performanceTime!) / 1000
    : audio.currentTime - audio.baseLatency
}

/** A song's sound, decoded once; at half or quarter speed when it was made so. */
export function songBuffer(audio: AudioContext, sha256: string, slowness: number): Promise<AudioBuffer> {
  const part = slowness === 1 ? 'song.flac' : (`slow-${slowness as 2 | 4}.flac` as const)
  const address = partOf(sha256, part)
  let buffer = buffers.get(address)
  if (!buffer) {
    buffer = fetch(address)
      .then((answer) => (answer.ok ? answer.arrayBuffer() : Promise.reject(new Error('not made yet'))))
      .then((bytes) => audio.decodeAudioData(bytes))
    buffer.catch(() => buffers.delete(address))
    buffers.set(address, buffer)
  }
  return buffer
}
