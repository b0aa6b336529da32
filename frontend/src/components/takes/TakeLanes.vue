<script setup lang="ts">
/** The take as it is drawn: its pictures, and lanes of what was measured in them. */
import { computed, ref, watch } from 'vue'
import type { Take, TakeMeasures } from '@/api/client'
import { useCanvas } from '@/composables/useCanvas'
import { useThumbs } from '@/composables/useThumbs'
import type { Axis } from '@/lib/axis'
import { token } from '@/lib/colours'
import { drawGreatest, drawStrip } from '@/lib/film'
import { useView } from '@/stores/view'
import { bottomOf, LANE, LANES, NAMES, STRIP, TOP } from './takeRail'

/** The lane of light covers as much at least, from dark to bright. */
const LEAST_LIGHT = 0.15
/** `axis` counts source frames. */
const props = defineProps<{ measures: TakeMeasures | null; axis: Axis }>()
const view = useView()
const canvas = ref<HTMLCanvasElement | null>(null)
const frames = computed(() => view.take?.frames ?? 1)
const { redraw } = useCanvas(canvas, draw)
const { thumb } = useThumbs(redraw)

function draw(context: CanvasRenderingContext2D, w: number, height: number): void {
  context.fillStyle = token('paper')
  context.fillRect(0, 0, w, height)
  if (!view.take) return
  drawPictures(context, view.take, w)
  const { measures } = props
  context.font = '600 12px "Inter Variable", sans-serif'
  LANES.forEach((name, lane) => {
    const bottom = bottomOf(lane)
    context.fillStyle = token('ink-muted')
    context.fillText(name, 8, bottom - 9)
    context.fillStyle = token('paper-line')
    context.fillRect(NAMES, bottom, w - NAMES, 1)
  })
  if (!measures) return
  const { low, high } = lightRange.value
  area(context, w, 0, (frame) => (measures.light[frame]! - low) / (high - low), 'hand')
  area(context, w, 1, (frame) => Math.sqrt(measures.moves[frame]! / greatest.value), 'slow')
  drawGoing(context, w, measures)
  area(context, w, 3, (frame) => measures.loud[frame]!, 'repeat')
  drawFresh(context, w, measures)
}

const greatest = computed(() => {
  const moves = Array.from(props.measures?.moves ?? []).sort((a, b) => a - b)
  return Math.max(0.005, moves[Math.floor(moves.length * 0.995)] ?? 0)
})
/** Light is drawn from the darkest frame to the brightest; a take that hardly changes stays low. */
const lightRange = computed(() => {
  const { light } = props.measures ?? { light: [] }
  let [low, high] = [1, 0]
  for (let frame = 0; frame < light.length; frame += 1) {
    low = Math.min(low, light[frame]!)
    high = Math.max(high, light[frame]!)
  }
  return { low: low - 0.02, high: Math.max(high, low + LEAST_LIGHT) }
})

function drawPictures(context: CanvasRenderingContext2D, take: Take, right: number): void {
  const { sha256 } = take.media
  if (!sha256) return
  const film = { frames: take.frames, aspect: take.width / take.height, gap: 1 }
  const band = { left: NAMES, right, top: TOP, bottom: TOP + STRIP }
  drawStrip(context, props.axis, band, film, (frame) => thumb(sha256, frame))
}

function area(
  context: CanvasRenderingContext2D,
  right: number,
  lane: number,
  valueOf: (frame: number) => number,
  colour: string,
): void {
  const bottom = bottomOf(lane)
  const band = { left: NAMES, right, top: bottom - LANE + 5, bottom }
  context.fillStyle = token(colour)
  context.globalAlpha = 0.6
  drawGreatest(context, props.axis, band, frames.value, valueOf)
  context.globalAlpha = 1
}

/** Which way the picture goes, as small needles. */
function drawGoing(context: CanvasRenderingContext2D, w: number, measures: TakeMeasures): void {
  const middle = bottomOf(2) - LANE / 2
  context.strokeStyle = token('ink')
  context.fillStyle = token('ink')
  context.lineWidth = 1.3
  for (let at = NAMES + 10; at < w - 8; at += 22) {
    const begin = Math.max(0, Math.floor(props.axis.at(at - 11)))
    const end = Math.min(measures.dx.length, Math.max(begin + 1, Math.floor(props.axis.at(at + 11))))
    let [dx, dy] = [0, 0]
    for (let frame = begin; frame < end; frame += 1) {
      dx += measures.dx[frame] ?? 0
      dy += measures.dy[frame] ?? 0
    }
    const far = Math.hypot(dx, dy) / Math.max(1, end - begin)
    if (far < 0.15) {
      context.fillRect(at - 1, middle - 1, 2, 2)
      continue
    }
    const length = Math.min(9, 3 + 3 * Math.log2(1 + far))
    const [ux, uy] = [(dx / Math.hypot(dx, dy)) * length, (dy / Math.hypot(dx, dy)) * length]
    context.beginPath()
    context.moveTo(at - ux, middle - uy)
    context.lineTo(at + ux, middle + uy)
    context.stroke()
    context.beginPath()
    context.arc(at + ux, middle + uy, 2, 0, 7)
    context.fill()
  }
}

/** A tick for each new picture, close by; from afar the share of them. */
function drawFresh(context: CanvasRenderingContext2D, w: number, measures: TakeMeasures): void {
  const bottom = bottomOf(4)
  context.fillStyle = token('ink-muted')
  if (props.axis.scale >= 3) {
    for (
      let frame = Math.max(0, Math.floor(props.axis.at(NAMES)));
      frame < Math.min(frames.value, props.axis.at(w) + 1);
      frame += 1
    )
      if (measures.fresh[frame])
        context.fillRect(props.axis.x(frame) + 1, bottom - 14, Math.min(2, props.axis.scale - 2), 10)
    return
  }
  context.font = '600 11px "JetBrains Mono Variable", monospace'
  measures.distinct.forEach((stretch, index) => {
    const end = measures.distinct[index + 1]?.begin ?? frames.value
    const [left, right] = [Math.max(NAMES, props.axis.x(stretch.begin)), Math.min(w, props.axis.x(end))]
    if (right <= left) return
    context.globalAlpha = 0.25
    context.fillRect(left, bottom - 16, right - left - 1, 12)
    context.globalAlpha = 1
    if (right - left > 60) context.fillText(`${stretch.rate} distinct`, left + 5, bottom - 6)
  })
}

watch(() => [props.measures, props.axis], redraw)
</script>

<template>
  <canvas ref="canvas" class="absolute inset-0 h-full w-full cursor-ew-resize" />
</template>
