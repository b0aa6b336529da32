<script setup lang="ts">
/** The curve of the clip at hand: its speed, or where in the take it stands. Handles are the same in both. */
import { ref } from 'vue'
import type { DerivedClip } from '@/api/client'
import { useCanvas } from '@/composables/useCanvas'
import { useCurve } from '@/composables/useCurve'
import { token } from '@/lib/colours'
import { percent } from '@/lib/format'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'
import CompareBar from './CompareBar.vue'
import CurveHandles from './CurveHandles.vue'
import PulseTeeth from './PulseTeeth.vue'

/** Pixels that a number of the scale takes. */
const LABEL = 12
const LINES = [0.125, 0.25, 0.5, 1, 2, 4, 8, 16]
const edit = useEdit()
const view = useView()
const canvas = ref<HTMLCanvasElement | null>(null)
const height = 124

const { width } = useCanvas(canvas, draw)
const curve = useCurve(width, height)
const { x, other, positions, speeds, placeY, bounds } = curve

function draw(context: CanvasRenderingContext2D, w: number): void {
  context.fillStyle = token('paper')
  context.fillRect(0, 0, w, height)
  const clip = view.derivedClip
  shadeSpan(context)
  if (!positions.value) drawScale(context, w)
  if (!clip) return
  if (other.value) {
    context.setLineDash([4, 4])
    drawCurve(context, other.value, 'high', 1.6)
    context.setLineDash([])
  }
  drawCurve(context, clip, 'ink', 2.2)
}

function drawScale(context: CanvasRenderingContext2D, w: number): void {
  const { y, rest, low, high } = speeds.value
  context.font = '600 11px "JetBrains Mono Variable", monospace'
  if (rest < height - 20) hatch(context, w, rest)
  let free = Infinity
  for (const line of LINES) {
    if (line < low || line > high) continue
    context.strokeStyle = token(line === 1 ? 'ink-muted' : 'paper-line')
    context.lineWidth = line === 1 ? 1.5 : 1
    rule(context, y(line), w)
    // Where lines stand close, those have a number that leave room, and real time always.
    const crowds = y(line) > free || (line !== 1 && Math.abs(y(line) - y(1)) < LABEL)
    if (crowds) continue
    free = y(line) - LABEL
    context.fillStyle = token('ink-muted')
    context.fillText(`${line * 100}${line === 1 ? ' %' : ''}`, 6, y(line) - 3)
  }
  const clip = view.derivedClip
  if (!clip?.floor) return
  context.setLineDash([5, 4])
  context.strokeStyle = token('slow')
  rule(context, y(clip.floor), w)
  context.setLineDash([])
  const label = `smooth floor ${percent(clip.floor)}`
  context.fillStyle = token('low')
  context.fillText(label, w - context.measureText(label).width - 6, y(clip.floor) + 12)
}

/** What lies below the line of rest runs backwards: hatched, so that it is told by more than its place. */
function hatch(context: CanvasRenderingContext2D, w: number, rest: number): void {
  context.save()
  context.beginPath()
  context.rect(0, rest, w, height - rest)
  context.clip()
  context.strokeStyle = token('paper-line')
  context.lineWidth = 1
  context.beginPath()
  for (let at = -height; at < w; at += 7) {
    context.moveTo(at, height)
    context.lineTo(at + height - rest, rest)
  }
  context.stroke()
  context.restore()
  context.strokeStyle = token('ink')
  context.lineWidth = 1
  rule(context, rest, w)
  context.fillStyle = token('ink-muted')
  // Above the teeth of pulses, which stand at the bottom.
  context.fillText('backwards', 6, Math.min(rest + 12, height - 8))
}

function rule(context: CanvasRenderingContext2D, at: number, w: number): void {
  context.beginPath()
  context.moveTo(0, Math.round(at) + 0.5)
  context.lineTo(w, Math.round(at) + 0.5)
  context.stroke()
}

function shadeSpan(context: CanvasRenderingContext2D): void {
  const pins = view.derivedClip?.pins
  for (const pin of pins ?? []) {
    context.fillStyle = token('tie-ink')
    context.globalAlpha = 0.5
    context.fillRect(x(pin.n), 0, 1, height)
    context.globalAlpha = 1
  }
  if (!bounds.value) return
  context.fillStyle = token('brass')
  context.globalAlpha = 0.13
  context.fillRect(bounds.value.left, 0, bounds.value.right - bounds.value.left, height)
  context.globalAlpha = 1
}

function drawCurve(context: CanvasRenderingContext2D, clip: DerivedClip, ink: string, thick: number): void {
  context.strokeStyle = token(ink)
  context.lineWidth = thick
  context.lineJoin = 'round'
  context.beginPath()
  const { y } = speeds.value
  if (positions.value) {
    Array.prototype.forEach.call(clip.source, (source: number, i: number) =>
      context.lineTo(x(clip.first + i), placeY.value(source)),
    )
    return context.stroke()
  }
  const turns = new Set(clip.pins.slice(1, -1).map((pin) => Math.ceil(pin.n)))
  Array.prototype.forEach.call(clip.speed, (speed: number, i: number) => {
    const at = clip.first + i
    // A pin may join two speeds: draw the step where it is.
    if (i && turns.has(at)) context.lineTo(x(at), y(clip.speed[i - 1]!))
    context.lineTo(x(at), y(speed))
  })
  context.stroke()
}

/** What lies under the pointer, and the speed that its height says. */
function under(event: MouseEvent) {
  const area = canvas.value!.getBoundingClientRect()
  return { ...curve.under(event.clientX - area.left), speed: speeds.value.at(event.clientY - area.top) }
}

function press(event: PointerEvent): void {
  const { index } = under(event)
  const clip = view.clip
  view.select(index < 0 || !clip ? { kind: 'none' } : { kind: 'span', clip: clip.id, span: index })
}

function addKnot(event: MouseEvent): void {
  const { index, part, speed } = under(event)
  const clip = view.clip?.id
  // In the position view a height says no speed: the knot takes the one that runs there.
  const knot = { at: part, speed: positions.value ? null : speed }
  if (clip && index >= 0) void edit.run({ do: 'add-knot', clip, span: index, ...knot })
}
</script>

<template>
  <div
    class="relative overflow-hidden rounded-t-md"
    :style="{ height: `${height}px` }"
    role="group"
    :aria-label="positions ? 'Position lane' : 'Speed lane'"
  >
    <canvas
      ref="canvas"
      class="absolute inset-0 h-full w-full cursor-pointer"
      @pointerdown="press"
      @dblclick="addKnot"
    />
    <PulseTeeth v-if="view.derivedClip?.pulses" :curve="curve" :width="width" :height="height" />
    <CurveHandles :curve="curve" :width="width" />
    <CompareBar v-if="view.derivedClip" />
    <p
      v-if="!view.derivedClip"
      class="pointer-events-none absolute inset-0 z-10 grid place-items-center text-ink-muted"
    >
      <span class="bg-paper px-3">The speed curve appears here once a take is laid on the music.</span>
    </p>
  </div>
</template>
