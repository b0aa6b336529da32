<script setup lang="ts">
/** A border that can be dragged, or moved with the arrow keys; a double click puts it back. */
import { drag } from '@/lib/drag'
import { handleKeys } from '@/lib/handleKeys'

const props = defineProps<{
  label: string
  orientation: 'vertical' | 'horizontal'
  value: number
  min: number
  max: number
  /** Whether moving right or down makes it smaller. */
  reversed?: boolean
}>()
const emit = defineEmits<{ move: [size: number]; reset: [] }>()
const STEP = 16

const clamp = (size: number) => Math.round(Math.max(props.min, Math.min(props.max, size)))

function grab(event: PointerEvent): void {
  const begin = props.value
  const place = (at: PointerEvent) => (props.orientation === 'vertical' ? at.clientX : at.clientY)
  const from = place(event)
  drag(
    event,
    (at) => emit('move', clamp(begin + (place(at) - from) * (props.reversed ? -1 : 1))),
    () => undefined,
  )
}

function keys(event: KeyboardEvent): void {
  const down = props.orientation === 'horizontal' && event.key.startsWith('Arrow') ? -1 : 1
  const way = (props.reversed ? -1 : 1) * (/Up|Down/.test(event.key) ? down : 1)
  handleKeys(event, { step: (by) => emit('move', clamp(props.value + way * by * STEP)) })
}
</script>

<template>
  <div
    class="group grid shrink-0 touch-none place-items-center"
    :class="orientation === 'vertical' ? 'w-2 cursor-col-resize' : 'h-2 cursor-row-resize'"
    role="separator"
    tabindex="0"
    :aria-label="label"
    :aria-orientation="orientation"
    :aria-valuenow="Math.round(value)"
    :aria-valuemin="min"
    :aria-valuemax="max"
    @pointerdown="grab"
    @dblclick="$emit('reset')"
    @keydown="keys"
  >
    <span
      class="rounded-full bg-line group-hover:bg-brass group-focus-visible:bg-brass"
      :class="orientation === 'vertical' ? 'h-10 w-0.5' : 'h-0.5 w-10'"
    />
  </div>
</template>
