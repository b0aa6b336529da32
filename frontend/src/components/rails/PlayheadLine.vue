<script setup lang="ts">
/** The playhead over all lanes of output time. */
import { useElementSize } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useAxes } from '@/composables/useAxis'
import { useView } from '@/stores/view'

const view = useView()
const area = ref<HTMLElement | null>(null)
const { width } = useElementSize(area)
const { output } = useAxes(width)
const x = computed(() => output.value.x(view.playhead))
</script>

<template>
  <div ref="area" class="pointer-events-none absolute inset-0 overflow-hidden">
    <div class="absolute inset-y-0 -ml-px w-0.5 bg-repeat" :style="{ transform: `translateX(${x}px)` }" />
  </div>
</template>
