<script setup lang="ts">
/** A spot of the picture that is chosen: by a click anywhere, or moved like any handle. */
import type { Box } from '@/lib/composer'
import type { Point } from '@/lib/lying'
import PictureHandle from './PictureHandle.vue'

const props = defineProps<{ label: string; at: Point; box: Box }>()
const emit = defineEmits<{ input: [at: Point]; change: [at: Point] }>()
const inside = ({ x, y }: Point): Point => ({
  x: Math.min(1, Math.max(0, x)),
  y: Math.min(1, Math.max(0, y)),
})
function choose(event: PointerEvent): void {
  const area = (event.currentTarget as HTMLElement).getBoundingClientRect()
  const { box } = props
  emit(
    'change',
    inside({ x: (event.clientX - area.left - box.x) / box.w, y: (event.clientY - area.top - box.y) / box.h }),
  )
}
</script>

<template>
  <div class="absolute inset-0 cursor-crosshair" @pointerdown="choose" />
  <PictureHandle
    :label="label"
    look="eye"
    :at="at"
    :box="box"
    @input="emit('input', inside($event))"
    @change="emit('change', inside($event))"
  />
</template>
