<script setup lang="ts">
/** Move what is selected by a frame or by a millisecond. */
import { useView } from '@/stores/view'

defineEmits<{ nudge: [seconds: number] }>()
const view = useView()
const MS = 0.001
</script>

<template>
  <div class="grid grid-cols-4 gap-1" role="group" aria-label="Nudge">
    <button class="btn justify-center px-1!" @click="$emit('nudge', -1 / view.outputRate)">−1 fr</button>
    <button class="btn justify-center px-1!" @click="$emit('nudge', -MS)">−1 ms</button>
    <button class="btn justify-center px-1!" @click="$emit('nudge', MS)">+1 ms</button>
    <button class="btn justify-center px-1!" @click="$emit('nudge', 1 / view.outputRate)">+1 fr</button>
  </div>
</template>
