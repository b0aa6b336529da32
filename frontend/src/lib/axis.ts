/** A horizontal axis: values against pixels. */
export interface Axis {
  x: (value: number) => number
  at: (x: number) => number
  /** Pixels for 1. */
  scale: number
}

/** Values from one to another over so many pixels, beginning at ``left``. */
export function linear(from: number, to: number, width: number, left = 0): Axis {
  const scale = width / Math.max(1e-9, to - from)
  return { x: (value) => left + (value - from) * scale, at: (x) => from + (x - left) / scale, scale }
}
