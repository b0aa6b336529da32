<script setup lang="ts">
/** A colour, chosen by the browser's own means. */
import { vTyped } from '@/lib/typing'

defineProps<{ label: string; value: string | undefined }>()
const emit = defineEmits<{ change: [colour: string] }>()
const chosen = (event: Event) => emit('change', (event.target as HTMLInputElement).value)
</script>

<template>
  <label class="flex flex-col gap-0.5">
    <span class="text-muted">{{ label }}</span>
    <input v-typed="value" type="color" class="field h-7 w-full p-0.5!" @change="chosen" />
  </label>
</template>
