/** The speed axis: logarithmic above the line of rest, and mirrored in a band below it where a clip runs backwards. */

export interface SpeedAxis {
  y: (speed: number) => number
  /** The speed at a height, above 0 on both sides of the line of rest; a hand that leaves the lane goes on. */
  at: (y: number, way?: number) => number
  rest: number
  low: number
  high: number
}

const ABOVE = 8
const BELOW = 6
const BAND = 40

export function speedAxis(low: number, high: number, height: number, backward: boolean): SpeedAxis {
  const rest = height - BELOW - (backward ? BAND : 0)
  const part = (speed: number) => Math.log(Math.max(speed, low) / low) / Math.log(high / low)
  const speedOf = (part: number) => low * (high / low) ** part
  return {
    y: (speed) => (speed < 0 ? rest + part(-speed) * BAND : rest - part(speed) * (rest - ABOVE)),
    at: (y, way = y > rest ? -1 : 1) => speedOf(way < 0 ? (y - rest) / BAND : (rest - y) / (rest - ABOVE)),
    rest,
    low,
    high,
  }
}
