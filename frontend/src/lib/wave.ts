/** Draws a song's waveform: three rows, one a band, each told apart by place, height and name. */
import type { Peaks, Samples } from '@/composables/usePeaks'
import { token } from '@/lib/colours'

const BANDS = [
  { token: 'high', share: 0.24, name: 'high' },
  { token: 'mid', share: 0.3, name: 'mid' },
  { token: 'low', share: 0.46, name: 'low' },
]
/** Screen pixels that a sample takes from where it is drawn as a point of a line. */
const POINT_PX = 6

export interface WaveBox {
  width: number
  top: number
  height: number
  /** The song's instant at a screen position, in seconds. */
  at: (x: number) => number
}

export function drawWave(
  context: CanvasRenderingContext2D,
  box: WaveBox,
  peaks: Peaks | null,
  samples: Samples | null,
  duration: number,
): void {
  let top = box.top
  BANDS.forEach((band, index) => {
    const tall = box.height * band.share
    const row = { ...box, top, height: tall, band: 2 - index }
    context.fillStyle = context.strokeStyle = token(band.token)
    if (samples && covers(samples, box, duration)) drawSamples(context, row, samples)
    else if (peaks) drawPeaks(context, row, peaks)
    top += tall
  })
  if (box.height > 60) nameBands(context, box)
}

function covers(samples: Samples, box: WaveBox, duration: number): boolean {
  const first = Math.max(0, Math.floor(box.at(0) * samples.rate))
  const last = Math.min(Math.floor(duration * samples.rate), Math.ceil(box.at(box.width) * samples.rate))
  const perPixel = (box.at(1) - box.at(0)) * samples.rate
  return perPixel < 64 && first >= samples.begin && last <= samples.end
}

function drawPeaks(context: CanvasRenderingContext2D, row: WaveBox & { band: number }, peaks: Peaks): void {
  const middle = row.top + row.height / 2
  for (let x = 0; x < row.width; x += 1) {
    const half = (peaks.between(row.band, row.at(x), row.at(x + 1)) * row.height) / 2
    if (half > 0.2) context.fillRect(x, middle - half, 1, 2 * half)
  }
}

function drawSamples(
  context: CanvasRenderingContext2D,
  row: WaveBox & { band: number },
  samples: Samples,
): void {
  const middle = row.top + row.height / 2
  const perSample = 1 / ((row.at(1) - row.at(0)) * samples.rate)
  const first = Math.max(samples.begin, Math.floor(row.at(0) * samples.rate))
  const last = Math.min(samples.end, Math.ceil(row.at(row.width) * samples.rate))
  const x = (index: number) => (index / samples.rate - row.at(0)) / (row.at(1) - row.at(0))
  context.lineWidth = 1.2
  context.beginPath()
  for (let index = first; index <= last; index += 1) {
    const y = middle - samples.at(row.band, index) * row.height * 0.5
    if (index === first) context.moveTo(x(index), y)
    else context.lineTo(x(index), y)
    if (perSample > POINT_PX) context.fillRect(x(index) - 1.5, y - 1.5, 3, 3)
  }
  context.stroke()
}

function nameBands(context: CanvasRenderingContext2D, box: WaveBox): void {
  context.font = '500 10px "Inter Variable", sans-serif'
  let top = box.top
  for (const band of BANDS) {
    context.fillStyle = token('paper')
    context.fillRect(1, top, context.measureText(band.name).width + 6, 13)
    context.fillStyle = token('ink-muted')
    context.fillText(band.name, 4, top + 10)
    top += box.height * band.share
  }
}
