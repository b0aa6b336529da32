<script setup lang="ts">
/** A point on the picture: dragged, or moved by the arrow keys, a pixel of the edit at a time, ten with Shift. */
import { useHandleKeys } from '@/composables/useHandleKeys'
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
const handleKeys = useHandleKeys()

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

const keys = (event: KeyboardEvent) =>
  handleKeys(event, {
    step: (by, far, along) => {
      const { width = 1280, height = 720 } = edit.edit ?? {}
      const step = by * (far ? 10 : 1)
      const { x, y } = props.at
      emit('change', along === 'across' ? { x: x + step / width, y } : { x, y: y - step / height })
    },
    remove: () => emit('remove'),
  })
const percent = (part: number) => `${Math.round(100 * part)} %`
</script>

<template>
  <button
    class="absolute grid h-6 w-6 -translate-x-1/2 -translate-y-1/2 cursor-move touch-none place-items-center"
    :style="{ left: `${box.x + box.w * at.x}px`, top: `${box.y + box.h * at.y}px` }"
    :aria-label="`${label}, ${percent(at.x)} across, ${percent(at.y)} down`"
    :data-work="label"
    @pointerdown.stop="grab"
    @keydown="keys"
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
