<script setup lang="ts">
/** A small moving picture of what a pulse does over four beats; it stands still for who wants no motion. */
import { computed } from 'vue'

const props = defineProps<{ course: number[] }>()
const WIDE = 64
const HIGH = 22
const points = computed(() =>
  props.course.map(
    (at, i) => [3 + (i * (WIDE - 6)) / (props.course.length - 1), HIGH / 2 - (at * HIGH) / 2.8] as const,
  ),
)
const line = computed(() => `M${points.value.map(([x, y]) => `${x.toFixed(1)},${y.toFixed(1)}`).join(' L')}`)
</script>

<template>
  <svg :viewBox="`0 0 ${WIDE} ${HIGH}`" class="h-[22px] w-16" aria-hidden="true">
    <path
      :d="line"
      fill="none"
      stroke="currentColor"
      stroke-width="1.5"
      stroke-linejoin="round"
      opacity="0.55"
    />
    <circle class="pulse-dot" r="2.6" fill="var(--brass)" :style="{ offsetPath: `path('${line}')` }" />
  </svg>
</template>

<style scoped>
.pulse-dot {
  animation: along 2s linear infinite;
}
@keyframes along {
  from {
    offset-distance: 0%;
  }
  to {
    offset-distance: 100%;
  }
}
@media (prefers-reduced-motion: reduce) {
  .pulse-dot {
    animation: none;
    offset-distance: 30%;
  }
}
</style>
