/** Colours on canvases, read from the tokens so that both themes share them. */

const known = new Map<string, string>()
let knownFor: string | undefined

/** Asking the style sheet costs more than drawing: what it said is kept until the theme changes. */
export function token(name: string): string {
  const { theme } = document.documentElement.dataset
  if (theme !== knownFor) known.clear()
  knownFor = theme
  let value = known.get(name)
  if (value === undefined) {
    value = getComputedStyle(document.documentElement).getPropertyValue(`--${name}`).trim()
    known.set(name, value)
  }
  return value
}

const SHADES = 48
let shades: string[] = []
let shadesFor: string | undefined

/** The colour of a speed, either way: cool when slow, neutral at real time, warm when fast. */
export function speedColour(speed: number): string {
  const { theme } = document.documentElement.dataset
  if (theme !== shadesFor || !shades.length) {
    shadesFor = theme
    shades = Array.from({ length: 2 * SHADES + 1 }, (_, i) => shade(i / SHADES - 1))
  }
  const octaves = Math.max(-1.5, Math.min(1.5, Math.log2(Math.max(Math.abs(speed), 0.01)))) / 1.5
  return shades[Math.round((octaves + 1) * SHADES)]!
}

/** From −1, slow, to 1, fast. */
function shade(at: number): string {
  return mix(token('real'), token(at < 0 ? 'slow' : 'fast'), Math.abs(at))
}

function mix(from: string, to: string, part: number): string {
  const a = channels(from)
  const b = channels(to)
  return `rgb(${a.map((value, index) => Math.round(value + ((b[index] ?? 0) - value) * part)).join(' ')})`
}

function channels(hex: string): number[] {
  return [1, 3, 5].map((at) => parseInt(hex.slice(at, at + 2), 16))
}
