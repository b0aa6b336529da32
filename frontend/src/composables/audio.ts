/** The audio clock, and sound for it: blocks of the edit's mix, and slow copies of its song. */
import { bytes, partOf, type EditState } from '@/api/client'
import { Budget } from '@/lib/budget'

const SOUND_BYTES = 128 << 20
const BYTES_PER_SAMPLE = 4

let context: AudioContext | null = null
const sounds = new Budget<Promise<AudioBuffer>>(SOUND_BYTES)

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

function kept(key: string, size: number, make: () => Promise<AudioBuffer>): Promise<AudioBuffer> {
  const found = sounds.get(key)
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
