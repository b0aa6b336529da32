<script setup lang="ts">
/** A line around something on the picture, through points of the frame. */
import { computed } from 'vue'
import type { Box } from '@/lib/composer'
import type { Point } from '@/lib/lying'

const props = defineProps<{ points: Point[]; box: Box; open?: boolean; grab?: boolean }>()
const path = computed(() => {
  const { x, y, w, h } = props.box
  const places = props.points.map((point) => `${x + w * point.x} ${y + h * point.y}`)
  return places.length ? `M${places.join('L')}${props.open ? '' : 'Z'}` : ''
})
</script>

<template>
  <svg class="pointer-events-none absolute inset-0 h-full w-full" aria-hidden="true">
    <path :d="path" class="fill-none stroke-black/60" stroke-width="3.5" />
    <path
      :d="path"
      class="stroke-brass"
      :class="grab ? 'pointer-events-auto cursor-move fill-transparent' : 'fill-none'"
      stroke-width="1.5"
      stroke-dasharray="5 3"
    />
  </svg>
</template>
