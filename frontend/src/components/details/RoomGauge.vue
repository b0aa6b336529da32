<script setup lang="ts">
/** What of a take a clip with pulses shows, and what is left before and after. */
import { computed } from 'vue'
import type { DerivedClip } from '@/api/client'
import { counted } from '@/lib/format'

const props = defineProps<{ pulses: NonNullable<DerivedClip['pulses']>; frames: number }>()
const parts = computed(() => {
  const most = Math.max(1, props.frames - 1)
  return {
    left: (100 * Math.max(0, props.pulses.before)) / most,
    right: (100 * Math.max(0, props.pulses.after)) / most,
  }
})
const said = computed(() => {
  const { before, after } = props.pulses
  return `${counted(Math.floor(Math.max(0, before)), 'frame')} left before, ${Math.floor(Math.max(0, after))} after`
})
</script>

<template>
  <div
    role="meter"
    aria-label="Room in the take"
    :aria-valuenow="100 - parts.left - parts.right"
    :aria-valuetext="said"
  >
    <div class="relative h-1.5 overflow-hidden rounded-full bg-ground">
      <div
        class="absolute inset-y-0 rounded-full bg-brass"
        :style="{ left: `${parts.left}%`, right: `${parts.right}%` }"
      ></div>
    </div>
    <p class="num mt-0.5 text-[12px] text-muted">
      {{ said }}<template v-if="pulses.runs_back">; plays backwards in places</template>
    </p>
  </div>
</template>
