/** The audio clock, and sound for it: blocks of the edit's mix, slow copies of its song, a take's own sound. */
import { bytes, partOf, type EditState } from '@/api/client'
import { Budget } from '@/lib/budget'

const SOUND_BYTES = 128 << 20
const BYTES_PER_SAMPLE = 4

let context: AudioContext | null = null
const sounds = new Budget<Promise<AudioBuffer | null>>(SOUND_BYTES)

/**
 * The audio clock, started if it was not: for the calibration of taps too. It runs at the rate of what is
 * to be played, when that is said, so that blocks of sound join without being resampled each by itself.
 */
export function audioClock(rate?: number): AudioContext {
  if (context && rate && context.sampleRate !== rate) {
    void context.close()
    context = null
  }
  context ??= new AudioContext({ latencyHint: 'interactive', sampleRate: rate })
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

function kept<T extends AudioBuffer | null>(key: string, size: number, make: () => Promise<T>): Promise<T> {
  const found = sounds.get(key) as Promise<T> | undefined
  if (found) return found
  const making = make()
  making.catch(() => sounds.forget(key))
  sounds.set(key, making, size)
  return making
}

/** The samples of one block of a mix; they stay the same for as long as the mix's key does. */
export const BLOCK = 1 << 17

/** A block of what an edit sounds like. */
export function mixBlock(state: EditState, number: number): Promise<AudioBuffer> {
  const { key, rate, channels } = state.mix
  return kept(`${key}:${number}`, BLOCK * channels * BYTES_PER_SAMPLE, async () => {
    const asked = { revision: state.revision, begin: number * BLOCK, count: BLOCK }
    const query = new URLSearchParams(Object.entries(asked).map(([name, value]) => [name, `${value}`]))
    const samples = new Float32Array(await bytes(`/api/edits/${state.id}/mix?${query}`))
    const buffer = new AudioBuffer({ length: BLOCK, numberOfChannels: channels, sampleRate: rate })
    for (let channel = 0; channel < channels; channel += 1) {
      const out = buffer.getChannelData(channel)
      for (let i = 0; i < BLOCK; i += 1) out[i] = samples[i * channels + channel]!
    }
    return buffer
  })
}

/** A song's slow copy, decoded once. */
export function slowBuffer(audio: AudioContext, sha256: string, slowness: 2 | 4): Promise<AudioBuffer> {
  const address = partOf(sha256, `slow-${slowness}.flac`)
  return kept(address, SOUND_BYTES / 2, async () => audio.decodeAudioData(await bytes(address)))
}

/** A take's own sound comes in stretches of so many seconds: it may be hours long. */
export const STRETCH_SECONDS = 20

/** A stretch of a take's own sound; null where there is none. */
export function takeStretch(
  audio: AudioContext,
  sha256: string,
  number: number,
): Promise<AudioBuffer | null> {
  const address = `/api/assets/${sha256}/sound?begin=${number * STRETCH_SECONDS}&seconds=${STRETCH_SECONDS}`
  return kept(address, STRETCH_SECONDS * audio.sampleRate * 2 * BYTES_PER_SAMPLE, async () => {
    const wav = await bytes(address)
    return wav.byteLength ? audio.decodeAudioData(wav) : null
  })
}

/** Sounds that begin at exact instants of the audio clock, until they end or are stopped. */
export class Sounding {
  private sources: AudioBufferSourceNode[] = []

  /** Play a part of a buffer, or what is left of it where its instant has passed. */
  start(into: AudioNode, buffer: AudioBuffer, when: number, offset: number, duration: number): void {
    const late = Math.max(0, into.context.currentTime - when)
    if (late >= duration) return
    const source = new AudioBufferSourceNode(into.context, { buffer })
    source.connect(into)
    source.start(when + late, offset + late, duration - late)
    source.onended = () => (this.sources = this.sources.filter((other) => other !== source))
    this.sources.push(source)
  }

  stop(): void {
    for (const source of this.sources) source.stop()
    this.sources = []
  }
}
