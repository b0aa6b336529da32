<script setup lang="ts">
/** The bar beneath the desk: playing the edit, or looking through the take. */
import TakeBar from '@/components/takes/TakeBar.vue'
import TransportBar from '@/components/TransportBar.vue'
import type { TakeWork } from '@/composables/useTakeWork'
import { useLayout } from '@/stores/layout'

defineProps<{ taps: number; work: TakeWork }>()
defineEmits<{ tap: []; zoomTake: [factor: number]; fitTake: [] }>()
const layout = useLayout()
</script>

<template>
  <TakeBar
    v-if="layout.desk === 'takes'"
    :work="work"
    @zoom="$emit('zoomTake', $event)"
    @fit="$emit('fitTake')"
  />
  <TransportBar v-else :taps="taps" @tap="$emit('tap')" />
</template>
