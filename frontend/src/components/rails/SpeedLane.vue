<script setup lang="ts">
/**
 * The curve of the clip at hand: its speed on a logarithmic axis, backwards below the line of rest, or where in
 * the take it stands. Handles for the span at hand are the same in both.
 */
import { computed, ref, shallowRef } from 'vue'
import type { Clip, DerivedClip, SpanValue } from '@/api/client'
import { useAxes } from '@/composables/useAxis'
import { useCanvas } from '@/composables/useCanvas'
import { token } from '@/lib/colours'
import { drag } from '@/lib/drag'
import { handleKeys } from '@/lib/handleKeys'
import { counted, percent } from '@/lib/format'
import { speedAxis, type SpeedAxis } from '@/lib/speedAxis'
import { useCompare } from '@/stores/compare'
import { useEdit } from '@/stores/edit'
import { useLayout } from '@/stores/layout'
import { useView } from '@/stores/view'
import CompareBar from './CompareBar.vue'

const LINES = [0.125, 0.25, 0.5, 1, 2, 4, 8, 16]
const edit = useEdit()
const view = useView()
const layout = useLayout()
const compare = useCompare()
const canvas = ref<HTMLCanvasElement | null>(null)
const height = 124
/** Pixels that double a speed in the position view. */
const DOUBLING = 40
const dragged = ref<string | null>(null)

const { width } = useCanvas(canvas, draw)
const { output } = useAxes(width)
const xOf = (n: number) => output.value.x(n / view.outputRate)

/** The clip as it was in the state that is kept to compare with. */
const other = computed(() => (compare.showing ? null : compare.clipOf.get(view.clip?.id ?? '')))
const positions = computed(() => layout.curve === 'position')

/** The axis as it was when a handle was grabbed: under a hand that drags, it stands still. */
const standing = shallowRef<SpeedAxis | null>(null)
const axis = computed(() => standing.value ?? fitted.value)
const fitted = computed(() => {
  const spans = (view.derivedClip?.spans ?? []).filter((span) => span.way !== 0)
  const floor = view.derivedClip?.floor ?? 1
  const low = Math.min(0.4, floor / 1.6, ...spans.map((span) => Math.max(0.06, span.lowest / 1.3)))
  const high = Math.max(2.6, ...spans.map((span) => span.highest * 1.35))
  const backward = Array.prototype.some.call(view.derivedClip?.speed ?? [], (speed: number) => speed < 0)
  return speedAxis(low, high, height, backward)
})

/** Where in the lane a source position is drawn: all that the clip shows, and a little more. */
const placeY = computed(() => {
  let least = Infinity
  let most = -Infinity
  for (const clip of [view.derivedClip, other.value])
    Array.prototype.forEach.call(clip?.source ?? [], (at: number) => {
      least = Math.min(least, at)
      most = Math.max(most, at)
    })
  const span = Math.max(1, most - least)
  return (at: number) => height - 10 - ((at - least) / span) * (height - 24)
})

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
  const { y, rest, low, high } = axis.value
  context.font = '600 11px "JetBrains Mono Variable", monospace'
  if (rest < height - 20) hatch(context, w, rest)
  for (const line of LINES) {
    if (line < low || line > high) continue
    context.strokeStyle = token(line === 1 ? 'ink-muted' : 'paper-line')
    context.lineWidth = line === 1 ? 1.5 : 1
    rule(context, y(line), w)
    context.fillStyle = token('ink-muted')
    context.fillText(`${line * 100}${line === 1 ? ' %' : ''}`, 6, y(line) - 3)
  }
  const clip = view.derivedClip
  if (!clip) return
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
  for (let x = -height; x < w; x += 7) {
    context.moveTo(x, height)
    context.lineTo(x + height - rest, rest)
  }
  context.stroke()
  context.restore()
  context.strokeStyle = token('ink')
  context.lineWidth = 1
  rule(context, rest, w)
  context.fillStyle = token('ink-muted')
  context.fillText('backwards', 6, height - 8)
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
    context.fillRect(xOf(pin.n), 0, 1, height)
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
  const { y } = axis.value
  if (positions.value) {
    Array.prototype.forEach.call(clip.source, (source: number, i: number) =>
      context.lineTo(xOf(clip.first + i), placeY.value(source)),
    )
    return context.stroke()
  }
  const turns = new Set(clip.pins.slice(1, -1).map((pin) => Math.ceil(pin.n)))
  Array.prototype.forEach.call(clip.speed, (speed: number, i: number) => {
    const at = clip.first + i
    // A pin may join two speeds: draw the step where it is.
    if (i && turns.has(at)) context.lineTo(xOf(at), y(clip.speed[i - 1]!))
    context.lineTo(xOf(at), y(speed))
  })
  context.stroke()
}

interface Handle {
  value: SpanValue
  way: number
  x: number
  y: number
  cursor: string
}

const span = computed(() =>
  view.selection.kind === 'span' && view.selection.clip === view.clip?.id ? view.selection.span : null,
)
const bounds = computed(() => {
  const pins = view.derivedClip?.pins
  const [left, right] = [pins?.[span.value ?? -1], pins?.[(span.value ?? -1) + 1]]
  return left && right ? { left: xOf(left.n), right: xOf(right.n) } : null
})

/** Which values can be dragged, where they are, and how far they go is the server's to say. */
const handles = computed<Handle[]>(() => {
  const box = bounds.value
  const found = view.derivedClip?.spans[span.value ?? -1]
  if (!box || !found) return []
  return found.values.flatMap((value) => {
    if (!value.handle) return []
    const { part, speed, along } = value.handle
    const x = box.left + part * (box.right - box.left)
    const y = positions.value ? curveY(x) : axis.value.y(found.way < 0 ? -speed : speed)
    return { value, way: found.way, x, y, cursor: along === 'speed' ? 'ns-resize' : 'ew-resize' }
  })
})

/** The height of the curve at a place, in the position view. */
function curveY(x: number): number {
  const clip = view.derivedClip!
  const index = Math.round(output.value.at(x) * view.outputRate) - clip.first
  return placeY.value(clip.source[Math.max(0, Math.min(clip.source.length - 1, index))]!)
}

function set(name: SpanValue['name'], value: number) {
  return { do: 'set-value', clip: view.clip?.id ?? '', span: span.value ?? 0, name, value } as const
}
const said = ({ unit, value }: SpanValue) =>
  unit === 'frames' ? counted(Math.round(value), 'frame') : percent(value)
const within = (value: number, { least, most }: SpanValue) => Math.max(least, Math.min(most, value))

/** A hand sets whole frames and whole percents, finer where it is slow; any value can be typed. */
const stepOf = (value: number, { unit }: SpanValue) =>
  unit === 'frames' ? 1 : Math.abs(value) < FINE_BELOW ? 0.001 : 0.01
function inSteps(value: number, held: SpanValue): number {
  const perOne = Math.round(1 / stepOf(value, held))
  return Math.round(value * perOne) / perOne
}
const FINE_BELOW = 0.2
/** What is asked ahead beside where a hand is going, in pixels. */
const AROUND = [0, 1, -1, 2, -2, 3, -3, 4, -4]

function grab(event: PointerEvent, { value: held, way }: Handle): void {
  const box = bounds.value
  const area = canvas.value?.getBoundingClientRect()
  const { along, per_part = 1 } = held.handle!
  if (!box || !area) return
  let value: number | null = null
  dragged.value = held.name
  standing.value = axis.value
  const begun = event.clientY
  const speedBy = (y: number) =>
    positions.value ? held.value * 2 ** ((begun - y) / DOUBLING) : axis.value.at(y - area.top, way)
  const valueAt = (x: number, y: number) => {
    const part = (x - area.left - box.left) / (box.right - box.left)
    return within(inSteps(along === 'speed' ? speedBy(y) : part * per_part, held), held)
  }
  const around = (x: number, y: number) => AROUND.map((off) => set(held.name, valueAt(x + off, y + off)))
  let before = { x: event.clientX, y: event.clientY }
  void edit.foresee(...around(before.x, before.y))
  drag(
    event,
    ({ clientX: x, clientY: y }) => {
      value = valueAt(x, y)
      // Where the hand seems to be on its way to is asked ahead.
      const next = around(2 * x - before.x, 2 * y - before.y)
      before = { x, y }
      void edit.dryRun(set(held.name, value), ...next, ...around(x, y))
    },
    () => {
      dragged.value = null
      standing.value = null
      if (value !== null) void edit.run(set(held.name, value))
    },
  )
}

function keys(event: KeyboardEvent, { value: held }: Handle): void {
  handleKeys(event, {
    step: (by, far) => {
      const step = (by * (far ? 10 : 1)) / (held.unit === 'frames' ? 1 : 100)
      void edit.run(set(held.name, within(held.value + step, held)))
    },
  })
}

/** The span under the pointer, and which part of it lies there. */
function under(event: MouseEvent): { index: number; part: number } {
  const area = canvas.value!.getBoundingClientRect()
  const n = output.value.at(event.clientX - area.left) * view.outputRate
  const pins = view.derivedClip?.pins ?? []
  const index = pins.findIndex((pin, i) => i < pins.length - 1 && pin.n <= n && n < pins[i + 1]!.n)
  const [left, right] = [pins[index]?.n ?? 0, pins[index + 1]?.n ?? 1]
  return { index, part: (n - left) / (right - left) }
}

function press(event: PointerEvent): void {
  const { index } = under(event)
  const clip = view.clip
  view.select(index < 0 || !clip ? { kind: 'none' } : { kind: 'span', clip: clip.id, span: index })
}

/** A knot where the pointer is; a span of another shape becomes one of knots first. */
async function addKnot(event: MouseEvent): Promise<void> {
  const { index, part } = under(event)
  const id = view.clip?.id
  if (index < 0 || !id) return
  const shape = () => edit.clipById.get(id)?.spans[index] as Clip['spans'][number]
  if (
    shape().shape !== 'custom' &&
    !(await edit.run({ do: 'begin-shape', clip: id, span: index, shape: 'custom' }))
  )
    return
  const custom = shape()
  if (custom.shape !== 'custom') return
  const area = canvas.value!.getBoundingClientRect()
  const speed = axis.value.at(event.clientY - area.top)
  const knot = { at: part, speed, locked: true, join: 'soft' as const }
  const knots = [...custom.knots, knot].sort((a, b) => a.at - b.at)
  await edit.run({ do: 'shape-span', clip: id, span: index, shape: { ...custom, knots } })
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
    <svg class="pointer-events-none absolute inset-0 h-full w-full">
      <g v-for="handle in handles" :key="handle.value.name">
        <circle
          class="pointer-events-auto"
          :style="{ cursor: handle.cursor }"
          :cx="handle.x"
          :cy="handle.y"
          r="7"
          fill="var(--paper)"
          stroke="var(--tie-ink)"
          stroke-width="3"
          role="slider"
          tabindex="0"
          :aria-label="handle.value.label"
          :aria-valuemin="handle.value.least"
          :aria-valuemax="handle.value.most"
          :aria-valuenow="handle.value.value"
          :aria-valuetext="said(handle.value)"
          @pointerdown="grab($event, handle)"
          @keydown="keys($event, handle)"
        />
        <g
          v-if="dragged === handle.value.name"
          :transform="`translate(${Math.min(handle.x + 12, width - 82)} ${Math.max(handle.y - 26, 4)})`"
        >
          <rect width="72" height="20" rx="4" fill="var(--ink)" />
          <text x="36" y="14" text-anchor="middle" fill="var(--paper)" class="num text-[12px] font-bold">
            {{ said(handle.value) }}
          </text>
        </g>
      </g>
    </svg>
    <CompareBar v-if="view.derivedClip" />
    <p
      v-if="!view.derivedClip"
      class="pointer-events-none absolute inset-0 z-10 grid place-items-center text-ink-muted"
    >
      <span class="bg-paper px-3">The speed curve appears here once a take is laid on the music.</span>
    </p>
  </div>
</template>
