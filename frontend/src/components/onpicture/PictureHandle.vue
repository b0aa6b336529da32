<script setup lang="ts">
/** A point on the picture: dragged, or moved by the arrow keys, a pixel of the edit at a time, ten with Shift. */
import type { Box } from '@/lib/composer'
import { drag } from '@/lib/drag'
import type { Point } from '@/lib/lying'
import { useEdit } from '@/stores/edit'

const props = defineProps<{
  label: string
  at: Point
  /** Where the frame lies, in pixels. */
  box: Box
  look?: 'point' | 'corner' | 'eye'
}>()
const emit = defineEmits<{ input: [at: Point]; change: [at: Point]; remove: [] }>()
const edit = useEdit()

function grab(event: PointerEvent): void {
  const { at, box } = props
  const to = (now: PointerEvent): Point => ({
    x: at.x + (now.clientX - event.clientX) / box.w,
    y: at.y + (now.clientY - event.clientY) / box.h,
  })
  const button = event.currentTarget as HTMLElement
  drag(
    event,
    (now) => emit('input', to(now)),
    (moved, now) => (moved ? emit('change', to(now)) : button.focus()),
  )
}

const STEPS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
}
function key(event: KeyboardEvent): void {
  const step = STEPS[event.key]
  if (step) {
    const by = event.shiftKey ? 10 : 1
    const { width = 1280, height = 720 } = edit.edit ?? {}
    emit('change', {
      x: props.at.x + (by * step[0]) / width,
      y: props.at.y + (by * step[1]) / height,
    })
  } else if (event.key === 'Delete' || event.key === 'Backspace') emit('remove')
  else return
  event.preventDefault()
  event.stopPropagation()
}
const percent = (part: number) => `${Math.round(100 * part)} %`
</script>

<template>
  <button
    class="absolute grid h-6 w-6 -translate-x-1/2 -translate-y-1/2 cursor-move touch-none place-items-center"
    :style="{ left: `${box.x + box.w * at.x}px`, top: `${box.y + box.h * at.y}px` }"
    :aria-label="`${label}, ${percent(at.x)} across, ${percent(at.y)} down`"
    :data-work="label"
    @pointerdown.stop="grab"
    @keydown="key"
  >
    <span
      class="pointer-events-none block border-2 border-on-brass bg-brass shadow-[0_0_0_1px_rgb(0_0_0/0.6)]"
      :class="{
        'h-3.5 w-3.5 rounded-full': !look || look === 'point',
        'h-3 w-3 rotate-45': look === 'corner',
        'h-5 w-5 rounded-full bg-transparent! border-brass!': look === 'eye',
      }"
    />
  </button>
</template>
