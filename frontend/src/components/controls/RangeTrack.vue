<script setup lang="ts">
/** A bare slider: `input` while it moves, `change` when it is let go. */
import { computed } from 'vue'
import { vTyped } from '@/lib/typing'

const props = defineProps<{
  label: string
  value: number
  min: number
  max: number
  step: number
  solved?: boolean
}>()
const emit = defineEmits<{ input: [value: number]; change: [value: number] }>()
const part = computed(() => ((props.value - props.min) / (props.max - props.min)) * 100)
const read = (event: Event) => Number((event.target as HTMLInputElement).value)
</script>

<template>
  <input
    v-typed="value"
    class="track w-full min-w-0 disabled:opacity-40"
    type="range"
    :aria-label="label"
    :min="min"
    :max="max"
    :step="step"
    :style="{ '--part': `${part}%`, '--filled': solved ? 'var(--brass)' : 'var(--slow)' }"
    @input="emit('input', read($event))"
    @change="emit('change', read($event))"
  />
</template>

<style scoped>
/* ``--part`` tells how far it is filled, ``--filled`` with what. */
.track {
  appearance: none;
  height: 16px;
  background: transparent;
}
.track::-webkit-slider-runnable-track {
  height: 4px;
  border-radius: 2px;
  background: linear-gradient(to right, var(--filled) var(--part), var(--line) var(--part));
}
.track::-moz-range-track {
  height: 4px;
  border-radius: 2px;
  background: var(--line);
}
.track::-webkit-slider-thumb {
  appearance: none;
  width: 16px;
  height: 16px;
  margin-top: -6px;
  border-radius: 50%;
  background: var(--text);
  border: 2px solid var(--panel);
}
</style>
