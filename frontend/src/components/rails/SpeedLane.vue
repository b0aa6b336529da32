<script setup lang="ts">
/** The speed curve on a logarithmic axis, with 100 %, the smooth floor, and handles for the span at hand. */
import { computed, ref } from 'vue'
import type { Shape } from '@/api/client'
import { useAxes } from '@/composables/useAxis'
import { useCanvas } from '@/composables/useCanvas'
import { token } from '@/lib/colours'
import { drag } from '@/lib/drag'
import { handleKeys } from '@/lib/handleKeys'
import { percent } from '@/lib/format'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'

const LINES = [0.125, 0.25, 0.5, 1, 2, 4, 8, 16]
const edit = useEdit()
const view = useView()
const canvas = ref<HTMLCanvasElement | null>(null)
const height = 124
const dragged = ref<string | null>(null)

const { width } = useCanvas(canvas, draw)
const { output } = useAxes(width)

const range = computed(() => {
  const clip = view.derivedClip
  const spans = clip?.spans ?? []
  const low = Math.min(
    0.4,
    (clip?.floor ?? 1) / 1.6,
    ...spans.map((span) => Math.max(0.06, span.lowest / 1.3)),
  )
  const high = Math.max(2.6, ...spans.map((span) => span.highest * 1.35))
  return { low, high }
})
const y = (speed: number) => {
  const { low, high } = range.value
  const part = Math.log(Math.max(speed, low) / low) / Math.log(high / low)
  return height - 6 - part * (height - 14)
}
const speedAt = (at: number) => {
  const { low, high } = range.value
  return low * (high / low) ** Math.max(0, Math.min(1, (height - 6 - at) / (height - 14)))
}
const xOf = (n: number) => output.value.x(n / view.outputRate)

function draw(context: CanvasRenderingContext2D, w: number): void {
  context.fillStyle = token('paper')
  context.fillRect(0, 0, w, height)
  const clip = view.derivedClip
  shadeSpan(context)
  context.font = '600 11px "JetBrains Mono Variable", monospace'
  for (const line of LINES) {
    if (line < range.value.low || line > range.value.high) continue
    context.strokeStyle = token(line === 1 ? 'ink-muted' : 'paper-line')
    context.lineWidth = line === 1 ? 1.5 : 1
    rule(context, y(line), w)
    context.fillStyle = token('ink-muted')
    context.fillText(`${line * 100}${line === 1 ? ' %' : ''}`, 6, y(line) - 3)
  }
  if (!clip) return
  context.setLineDash([5, 4])
  context.strokeStyle = token('slow')
  rule(context, y(clip.floor), w)
  context.setLineDash([])
  const label = `smooth floor ${percent(clip.floor)}`
  context.fillStyle = token('low')
  context.fillText(label, w - context.measureText(label).width - 6, y(clip.floor) + 12)
  drawCurve(context, clip)
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
  if (view.selection.kind !== 'span' || !pins) return
  const [left, right] = [pins[view.selection.span], pins[view.selection.span + 1]]
  if (!left || !right) return
  context.fillStyle = token('brass')
  context.globalAlpha = 0.13
  context.fillRect(xOf(left.n), 0, xOf(right.n) - xOf(left.n), height)
  context.globalAlpha = 1
}

function drawCurve(context: CanvasRenderingContext2D, clip: NonNullable<typeof view.derivedClip>): void {
  context.strokeStyle = token('ink')
  context.lineWidth = 2.2
  context.lineJoin = 'round'
  context.beginPath()
  clip.speed.forEach((speed, i) => {
    const at = clip.first + i
    const pin = clip.pins.findIndex(
      (other, index) => index > 0 && index < clip.pins.length - 1 && other.n === at,
    )
    // A pin may join two speeds: draw the step where it is.
    if (pin > 0) context.lineTo(xOf(at), y(clip.speed[i - 1]!))
    if (i === 0) context.moveTo(xOf(at), y(speed))
    else context.lineTo(xOf(at), y(speed))
  })
  context.stroke()
}

interface Handle {
  name: string
  x: number
  y: number
  value: number
  text: string
  cursor: string
  /** The shape when the handle is moved to a speed and a place in the span. */
  moved: (speed: number, part: number) => Shape
}

const span = computed(() => (view.selection.kind === 'span' ? view.selection.span : null))
const bounds = computed(() => {
  const pins = view.derivedClip?.pins
  const [left, right] = [pins?.[span.value ?? -1], pins?.[(span.value ?? -1) + 1]]
  return left && right ? { left: xOf(left.n), right: xOf(right.n) } : null
})

const clamp = (value: number, low: number, high: number) => Math.max(low, Math.min(high, value))

const handles = computed<Handle[]>(() => {
  const shape = view.clip?.spans[span.value ?? -1]
  const facts = view.derivedClip?.spans[span.value ?? -1]
  const box = bounds.value
  if (!shape || !facts || !box) return []
  const at = (part: number) => box.left + part * (box.right - box.left)
  if (shape.shape === 'dip') {
    const { strength = 0.5, reach = 0.5 } = shape
    const middle = facts.mean * (1 - strength)
    return [
      {
        name: 'Middle speed', x: at(0.5), y: y(middle), value: middle * 100, text: percent(middle), cursor: 'ns-resize',
        moved: (speed) => ({ ...shape, strength: clamp(1 - speed / facts.mean, 0, 1) }),
      },
      {
        name: 'Reach', x: at(reach / 2), y: y((middle + facts.highest) / 2), value: reach * 100,
        text: `reach ${percent(reach)}`, cursor: 'ew-resize',
        moved: (_, part) => ({ ...shape, reach: clamp(2 * part, 0.05, 0.95) }),
      },
    ] // prettier-ignore
  }
  if (shape.shape !== 'build') return []
  const [start, end, change] = [facts.start ?? 1, facts.end ?? 1, facts.change ?? 0.5]
  return [
    {
      name: 'Start speed', x: at(change / 2), y: y(start), value: start * 100, text: percent(start), cursor: 'ns-resize',
      moved: (speed) => ({ ...shape, start: clamp(speed, 0.01, facts.mean), change, end: null }),
    },
    {
      name: 'Change', x: at(change), y: y(Math.sqrt(start * end)), value: change * 100, text: `change at ${percent(change)}`,
      cursor: 'ew-resize',
      moved: (_, part) => ({ ...shape, start, change: clamp(part, 0.02, 0.98), end: null }),
    },
    {
      name: 'End speed', x: at((1 + change) / 2), y: y(end), value: end * 100, text: percent(end), cursor: 'ns-resize',
      moved: (speed) => ({ ...shape, start: null, change, end: clamp(speed, facts.mean, facts.mean / (1 - change)) }),
    },
  ] // prettier-ignore
})

function grab(event: PointerEvent, handle: Handle): void {
  const clip = view.clip
  const box = bounds.value
  const area = canvas.value?.getBoundingClientRect()
  if (!clip || span.value === null || !box || !area) return
  const index = span.value
  let shape: Shape | null = null
  dragged.value = handle.name
  drag(
    event,
    (at) => {
      const part = (at.clientX - area.left - box.left) / (box.right - box.left)
      shape = handle.moved(speedAt(at.clientY - area.top), part)
      void edit.dryRun({ do: 'shape-span', clip: clip.id, span: index, shape })
    },
    () => {
      dragged.value = null
      if (shape) void edit.run({ do: 'shape-span', clip: clip.id, span: index, shape })
    },
  )
}

function keys(event: KeyboardEvent, handle: Handle): void {
  const clip = view.clip
  if (!clip || span.value === null) return
  const index = span.value
  handleKeys(event, {
    step: (by, far) => {
      const value = (handle.value + by * (far ? 10 : 1)) / 100
      const part = handle.name === 'Reach' ? value / 2 : value
      void edit.run({ do: 'shape-span', clip: clip.id, span: index, shape: handle.moved(value, part) })
    },
  })
}

function press(event: PointerEvent): void {
  const area = canvas.value!.getBoundingClientRect()
  const n = output.value.at(event.clientX - area.left) * view.outputRate
  const pins = view.derivedClip?.pins ?? []
  const index = pins.findIndex((pin, i) => i < pins.length - 1 && pin.n <= n && n < pins[i + 1]!.n)
  view.select(index < 0 ? { kind: 'none' } : { kind: 'span', span: index })
}
</script>

<template>
  <div
    class="relative overflow-hidden rounded-t-md"
    :style="{ height: `${height}px` }"
    role="group"
    aria-label="Speed lane"
  >
    <canvas ref="canvas" class="absolute inset-0 h-full w-full cursor-pointer" @pointerdown="press" />
    <svg class="pointer-events-none absolute inset-0 h-full w-full">
      <g v-for="handle in handles" :key="handle.name">
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
          :aria-label="handle.name"
          :aria-valuenow="Math.round(handle.value)"
          :aria-valuetext="handle.text"
          @pointerdown="grab($event, handle)"
          @keydown="keys($event, handle)"
        />
        <g
          v-if="dragged === handle.name"
          :transform="`translate(${Math.min(handle.x + 12, width - 130)} ${Math.max(handle.y - 26, 4)})`"
        >
          <rect width="120" height="20" rx="4" fill="var(--ink)" />
          <text x="60" y="14" text-anchor="middle" fill="var(--paper)" class="num text-[12px] font-bold">
            {{ handle.text }}
          </text>
        </g>
      </g>
    </svg>
    <p
      v-if="!view.derivedClip"
      class="pointer-events-none absolute inset-0 z-10 grid place-items-center text-ink-muted"
    >
      <span class="bg-paper px-3">The speed curve appears here once a take is laid on the music.</span>
    </p>
  </div>
</template>
