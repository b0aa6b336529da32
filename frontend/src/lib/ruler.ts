/** Draws the two rulers beneath the music: bars and beats, which follow the tempo, and seconds. */
import { token } from '@/lib/colours'
import type { PlacedCue } from '@/stores/edit'

const FONT = '500 11px "JetBrains Mono Variable", monospace'
const SECOND_STEPS = [0.0005, 0.001, 0.005, 0.01, 0.05, 0.1, 0.25, 0.5, 1, 2, 5, 10, 30, 60]
const LEAST_BAR_PX = 34
const LEAST_BEAT_PX = 7

export function drawSeconds(
  context: CanvasRenderingContext2D,
  x: (time: number) => number,
  view: { from: number; to: number; width: number },
  bottom: number,
): void {
  const step = SECOND_STEPS.find((other) => (other / (view.to - view.from)) * view.width > 70) ?? 60
  const digits = step < 0.001 ? 4 : step < 0.01 ? 3 : 2
  context.font = FONT
  context.fillStyle = token('ink-muted')
  for (let time = Math.max(0, Math.ceil(view.from / step) * step); time <= view.to; time += step) {
    context.fillRect(Math.round(x(time)), bottom - 13, 1, 4)
    context.fillText(`${+time.toFixed(digits)} s`, x(time) + 4, bottom - 3)
  }
}

/** Bar numbers at downbeats, thinned out to every 2nd, 4th, … where they are close, and beats between. */
export function drawBars(
  context: CanvasRenderingContext2D,
  x: (time: number) => number,
  beats: PlacedCue[],
  width: number,
  top: number,
): void {
  const downbeats = beats.filter((beat) => beat.kind === 'downbeat')
  const whole = x(beats.at(-1)?.at ?? 1) - x(beats[0]?.at ?? 0)
  const barPx = whole / Math.max(1, downbeats.length)
  const every = 2 ** Math.max(0, Math.ceil(Math.log2(LEAST_BAR_PX / Math.max(barPx, 0.01))))
  const beatPx = whole / Math.max(1, beats.length)
  context.font = FONT
  let bar = 0
  for (const beat of beats) {
    const down = beat.kind === 'downbeat'
    if (down) bar += 1
    const at = Math.round(x(beat.at))
    if (at < -40 || at > width) continue
    if (down && (bar - 1) % every === 0) {
      context.fillStyle = token('ink')
      context.fillRect(at, top, 1.5, 12)
      context.fillText(String(bar), at + 4, top + 10)
    } else if (beatPx >= LEAST_BEAT_PX) {
      context.fillStyle = token('ink-muted')
      context.fillRect(at, top, 1, down ? 8 : 5)
    }
  }
}
