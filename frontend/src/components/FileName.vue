<script setup lang="ts">
/** A file's name without its suffix; a long one is cut where it tells least, and whole on hover. */
import { computed } from 'vue'
import { fileName, halves } from '@/lib/names'

const props = defineProps<{ name: string }>()
const parts = computed(() => halves(fileName(props.name)))
</script>

<template>
  <span class="flex min-w-0 leading-tight" :title="name">
    <span class="sr-only">{{ fileName(name) }}</span>
    <span class="truncate whitespace-pre" aria-hidden="true">{{ parts[0] }}</span><span
      class="shrink-0 whitespace-pre"
      aria-hidden="true"
      >{{ parts[1] }}</span
    >
  </span>
</template>
