<script setup lang="ts">
/** The speed curve on a logarithmic axis, with 100 %, the smooth floor, and handles for the span at hand. */
import { computed, ref } from 'vue'
import type { SpanValue } from '@/api/client'
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
  if (!bounds.value) return
  context.fillStyle = token('brass')
  context.globalAlpha = 0.13
  context.fillRect(bounds.value.left, 0, bounds.value.right - bounds.value.left, height)
  context.globalAlpha = 1
}

function drawCurve(context: CanvasRenderingContext2D, clip: NonNullable<typeof view.derivedClip>): void {
  context.strokeStyle = token('ink')
  context.lineWidth = 2.2
  context.lineJoin = 'round'
  context.beginPath()
  Array.prototype.forEach.call(clip.speed, (speed: number, i: number) => {
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
  value: SpanValue
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
  if (!box) return []
  return (view.derivedClip?.spans[span.value ?? -1]?.values ?? []).flatMap((value) => {
    if (!value.handle) return []
    const { part, speed, along } = value.handle
    const x = box.left + part * (box.right - box.left)
    return { value, x, y: y(speed), cursor: along === 'speed' ? 'ns-resize' : 'ew-resize' }
  })
})

function set(name: SpanValue['name'], value: number) {
  return { do: 'set-value', clip: view.clip?.id ?? '', span: span.value ?? 0, name, value } as const
}
const within = (value: number, { least, most }: SpanValue) => Math.max(least, Math.min(most, value))

function grab(event: PointerEvent, { value: held }: Handle): void {
  const box = bounds.value
  const area = canvas.value?.getBoundingClientRect()
  const { along, per_part = 1 } = held.handle!
  if (!box || !area) return
  let value: number | null = null
  dragged.value = held.name
  drag(
    event,
    (at) => {
      const part = (at.clientX - area.left - box.left) / (box.right - box.left)
      value = within(along === 'speed' ? speedAt(at.clientY - area.top) : part * per_part, held)
      void edit.dryRun(set(held.name, value))
    },
    () => {
      dragged.value = null
      if (value !== null) void edit.run(set(held.name, value))
    },
  )
}

function keys(event: KeyboardEvent, { value: held }: Handle): void {
  handleKeys(event, {
    step: (by, far) => void edit.run(set(held.name, within(held.value + (by * (far ? 10 : 1)) / 100, held))),
  })
}

function press(event: PointerEvent): void {
  const area = canvas.value!.getBoundingClientRect()
  const n = output.value.at(event.clientX - area.left) * view.outputRate
  const pins = view.derivedClip?.pins ?? []
  const index = pins.findIndex((pin, i) => i < pins.length - 1 && pin.n <= n && n < pins[i + 1]!.n)
  const clip = view.clip
  view.select(index < 0 || !clip ? { kind: 'none' } : { kind: 'span', clip: clip.id, span: index })
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
          :aria-valuemin="Math.round(handle.value.least * 100)"
          :aria-valuemax="Math.round(handle.value.most * 100)"
          :aria-valuenow="Math.round(handle.value.value * 100)"
          :aria-valuetext="percent(handle.value.value)"
          @pointerdown="grab($event, handle)"
          @keydown="keys($event, handle)"
        />
        <g
          v-if="dragged === handle.value.name"
          :transform="`translate(${Math.min(handle.x + 12, width - 130)} ${Math.max(handle.y - 26, 4)})`"
        >
          <rect width="120" height="20" rx="4" fill="var(--ink)" />
          <text x="60" y="14" text-anchor="middle" fill="var(--paper)" class="num text-[12px] font-bold">
            {{ percent(handle.value.value) }}
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
