<script setup lang="ts">
/** Says that something could not be loaded, and offers to try again. */
import { RotateCw } from '@lucide/vue'
import type { Problem } from '@/api/client'

defineProps<{ what: string; problem: Problem }>()
defineEmits<{ again: [] }>()
</script>

<template>
  <div role="alert" class="z-10 flex items-center gap-2 rounded-md bg-panel px-2 py-1 text-text">
    <span
      >{{ what }} <span class="text-muted">{{ problem.what }} {{ problem.remedy }}</span></span
    >
    <button class="btn shrink-0" @click="$emit('again')"><RotateCw :size="14" />Try again</button>
  </div>
</template>
