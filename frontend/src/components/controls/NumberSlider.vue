<script setup lang="ts">
/** A value that is dragged or typed: `input` while it moves, `change` when it is meant. */
import { computed } from 'vue'
import { vTyped } from '@/lib/typing'
import RangeTrack from './RangeTrack.vue'

const props = defineProps<{
  label: string
  value: number
  min: number
  max: number
  step: number
  unit?: string
  /** Shows and edits value × scale, such as 100 for percent. */
  scale?: number
  solved?: boolean
}>()
const emit = defineEmits<{ input: [value: number]; change: [value: number] }>()

const scale = computed(() => props.scale ?? 1)
const shown = computed(() => +(props.value * scale.value).toFixed(scale.value === 1 ? 2 : 1))
const read = (event: Event) => Number((event.target as HTMLInputElement).value)

function typed(event: Event): void {
  const value = read(event) / scale.value
  if (Number.isFinite(value)) emit('change', value)
}
</script>

<template>
  <div>
    <div class="flex items-center justify-between gap-2">
      <span class="text-muted">{{ label }}<span v-if="solved" class="text-brass"> (solved)</span></span>
      <span class="flex items-center gap-1">
        <input
          v-typed="shown"
          class="field num w-[68px]! text-right"
          :class="solved ? 'text-brass!' : ''"
          type="number"
          :aria-label="`${label}${unit ? `, ${unit}` : ''}`"
          :min="+(min * scale).toFixed(3)"
          :step="+(step * scale).toFixed(3)"
          @change="typed"
        />
        <span v-if="unit" class="num min-w-3 text-muted">{{ unit }}</span>
      </span>
    </div>
    <RangeTrack
      class="mt-1"
      :label="`${label}, slider`"
      :min="min"
      :max="max"
      :step="step"
      :value="value"
      :solved="solved"
      @input="emit('input', $event)"
      @change="emit('change', $event)"
    />
  </div>
</template>
