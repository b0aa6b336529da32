/** How the take rail is laid out, in pixels: names to the left, pictures on top, lanes below, then selects. */
export const NAMES = 86
export const TOP = 3
export const STRIP = 40
export const LANE = 30
export const LANES = ['light', 'motion', 'direction', 'sound', 'new frames'] as const
/** Where the lane with this index ends. */
export const bottomOf = (lane: number) => STRIP + 6 + (lane + 1) * LANE
export const KNOB = 12
/** How far the stems of moments and proposals reach, and where selects stand below them. */
export const STEM = bottomOf(LANES.length - 1) + 8
export const SELECT = 18
export const SELECTS = STEM + KNOB + 6
export const HEIGHT = SELECTS + 2 * SELECT + 4
