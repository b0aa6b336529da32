<script setup lang="ts">
/** Handles on the curve for the values of the span at hand: dragged along one axis, or stepped by keys. */
import { useHandleKeys } from '@/composables/useHandleKeys'
import { computed, ref } from 'vue'
import type { SpanValue } from '@/api/client'
import type { Curve } from '@/composables/useCurve'
import { drag } from '@/lib/drag'
import { counted, percent } from '@/lib/format'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'

const props = defineProps<{ curve: Curve; width: number }>()
const edit = useEdit()
const handleKeys = useHandleKeys()
const view = useView()
const box = ref<SVGElement | null>(null)
const dragged = ref<string | null>(null)
const { speeds, positions, standing, span, bounds } = props.curve

/** Pixels that double a speed in the position view. */
const DOUBLING = 40
const FINE_BELOW = 0.2
/** What is asked ahead beside where a hand is going, in pixels. */
const AROUND = [0, 1, -1, 2, -2, 3, -3, 4, -4]

interface Handle {
  value: SpanValue
  way: number
  x: number
  y: number
  cursor: string
}

/** Which values can be dragged, where they are, and how far they go is the server's to say. */
const handles = computed<Handle[]>(() => {
  const edges = bounds.value
  const found = view.derivedClip?.spans[span.value ?? -1]
  if (!edges || !found) return []
  return found.values.flatMap((value) => {
    if (!value.handle) return []
    const { part, speed, along } = value.handle
    const x = edges.left + part * (edges.right - edges.left)
    const y = props.curve.heightAt(x, found.way < 0 ? -speed : speed)
    return { value, way: found.way, x, y, cursor: along === 'speed' ? 'ns-resize' : 'ew-resize' }
  })
})

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

function grab(event: PointerEvent, { value: held, way }: Handle): void {
  const edges = bounds.value
  const area = box.value?.getBoundingClientRect()
  const { along, per_part = 1 } = held.handle!
  if (!edges || !area) return
  let value: number | null = null
  dragged.value = held.name
  standing.value = speeds.value
  const begun = event.clientY
  const speedBy = (y: number) =>
    positions.value ? held.value * 2 ** ((begun - y) / DOUBLING) : speeds.value.at(y - area.top, way)
  const valueAt = (x: number, y: number) => {
    const part = (x - area.left - edges.left) / (edges.right - edges.left)
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
</script>

<template>
  <svg ref="box" class="pointer-events-none absolute inset-0 h-full w-full">
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
</template>
