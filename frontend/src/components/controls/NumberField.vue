<script setup lang="ts">
/** A number under its name, or what there is without one; `change` when one is typed that is a number. */
import { vTyped } from '@/lib/typing'

defineProps<{
  label: string
  value: number | null
  without?: string
  min?: number
  max?: number
  step?: number | 'any'
  digits?: number
  hideLabel?: boolean
  solved?: boolean
}>()
const emit = defineEmits<{ change: [value: number] }>()

function typed(event: Event): void {
  const { value } = event.target as HTMLInputElement
  if (value && Number.isFinite(Number(value))) emit('change', Number(value))
}
</script>

<template>
  <label class="block">
    <span v-if="!hideLabel" class="text-muted">{{ label }}</span>
    <input
      v-typed="value?.toFixed(digits ?? 0)"
      class="field num"
      :class="[hideLabel ? 'text-right' : '', solved ? 'text-brass!' : '']"
      :aria-label="hideLabel ? label : undefined"
      type="number"
      :min="min"
      :max="max"
      :step="step"
      :placeholder="without"
      @change="typed"
    />
  </label>
</template>
