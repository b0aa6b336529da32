<script setup lang="ts">
/** What comes after the end of the edit, shaded: lightly while it is black, then darker, for nothing is left. */
import { useElementSize } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useAxes } from '@/composables/useAxis'
import { useEdit } from '@/stores/edit'

const edit = useEdit()
const area = ref<HTMLElement | null>(null)
const { width } = useElementSize(area)
const { frames, gutter } = useAxes(width)
const from = (n: number) => `${Math.min(width.value, Math.max(gutter.value, frames.value.x(n)))}px`
const end = computed(() => edit.derived?.end ?? null)
</script>

<template>
  <div ref="area" class="pointer-events-none absolute inset-0 overflow-hidden">
    <template v-if="end">
      <div class="absolute inset-y-0 right-0 bg-ground/15" :style="{ left: from(end.dark) }" />
      <div class="absolute inset-y-0 right-0 bg-ground/30" :style="{ left: from(end.stop) }" />
    </template>
  </div>
</template>
