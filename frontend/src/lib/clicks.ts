/** The click of each kind of cue: a short tone of its own pitch and colour. */
import type { CueKind } from '@/api/client'

const CLICKS: Record<CueKind, { hertz: number; wave: OscillatorType; seconds: number }> = {
  beat: { hertz: 1400, wave: 'square', seconds: 0.025 },
  downbeat: { hertz: 2100, wave: 'square', seconds: 0.035 },
  kick: { hertz: 160, wave: 'sine', seconds: 0.09 },
  snare: { hertz: 900, wave: 'sawtooth', seconds: 0.05 },
  hat: { hertz: 5200, wave: 'square', seconds: 0.015 },
  bass: { hertz: 240, wave: 'triangle', seconds: 0.12 },
  note: { hertz: 1050, wave: 'sine', seconds: 0.05 },
  drop: { hertz: 620, wave: 'sawtooth', seconds: 0.2 },
  roll: { hertz: 1250, wave: 'triangle', seconds: 0.08 },
  hand: { hertz: 1750, wave: 'triangle', seconds: 0.04 },
}

const LOUDEST = 0.6

/** Sound the click of a kind at an instant of the audio clock, ``level`` 0..1. */
export function click(
  audio: BaseAudioContext,
  out: AudioNode,
  { kind, level, at }: { kind: CueKind; level: number; at: number },
): void {
  const { hertz, wave, seconds } = CLICKS[kind]
  const tone = new OscillatorNode(audio, { frequency: hertz, type: wave })
  const gain = new GainNode(audio, { gain: 0 })
  gain.gain.setValueAtTime(LOUDEST * level, at)
  gain.gain.exponentialRampToValueAtTime(0.001, at + seconds)
  tone.connect(gain).connect(out)
  tone.start(at)
  tone.stop(at + seconds + 0.01)
}
