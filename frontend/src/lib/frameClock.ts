/**
 * Frames and seconds at one rate. Frame ``n`` is on from when it begins until the next one does, that instant
 * not included; an instant that misses a frame by rounding alone is on it.
 */
import { ROUNDING } from './rounding'

/** As much of a frame lies between its begin and an instant that is surely on it. */
const INSIDE_FRAMES = 1e-3

export interface FrameClock {
  /** Frames a second. */
  rate: number
  /** When a frame, or a place between two, comes on. */
  time: (n: number) => number
  /** An instant that is surely on a frame. */
  inside: (n: number) => number
  /** Where an instant lies, in frames and parts of one. */
  at: (seconds: number) => number
  /** The frame that is on at an instant. */
  frame: (seconds: number) => number
  /** The first frame that begins at an instant or later. */
  next: (seconds: number) => number
}

/** The clock of a rate such as "30000/1001". */
export function frameClock(text: string): FrameClock {
  const [top = 0, bottom = 1] = text.split('/').map(Number)
  const rate = top / bottom
  return {
    rate,
    time: (n) => n / rate,
    inside: (n) => (n + INSIDE_FRAMES) / rate,
    at: (seconds) => seconds * rate,
    frame: (seconds) => Math.floor(seconds * rate + ROUNDING),
    next: (seconds) => Math.ceil(seconds * rate - ROUNDING),
  }
}
