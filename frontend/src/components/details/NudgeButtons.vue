<script setup lang="ts">
/** Move what is selected by a frame or by a millisecond. */
import { useEdit } from '@/stores/edit'

defineEmits<{ nudge: [seconds: number] }>()
const edit = useEdit()
const MS = 0.001
</script>

<template>
  <div class="grid grid-cols-4 gap-1" role="group" aria-label="Nudge">
    <button class="btn justify-center px-1!" @click="$emit('nudge', -edit.clock.time(1))">−1 fr</button>
    <button class="btn justify-center px-1!" @click="$emit('nudge', -MS)">−1 ms</button>
    <button class="btn justify-center px-1!" @click="$emit('nudge', MS)">+1 ms</button>
    <button class="btn justify-center px-1!" @click="$emit('nudge', edit.clock.time(1))">+1 fr</button>
  </div>
</template>
