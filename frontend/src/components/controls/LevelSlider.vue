<script setup lang="ts">
/** How loud something is, in dB. */
import { QUIETEST_DB } from '@/lib/sounds'
import NumberSlider from './NumberSlider.vue'

defineProps<{ label: string; value: number }>()
defineEmits<{ change: [level: number] }>()
</script>

<template>
  <NumberSlider
    :label="label"
    unit="dB"
    :min="QUIETEST_DB"
    :max="12"
    :step="0.5"
    :value="value"
    @change="$emit('change', $event)"
  />
</template>
