<script setup lang="ts">
/** One value of a span's shape: tried while it is dragged, kept when it is meant. */
import type { SpanValue } from '@/api/client'
import NumberSlider from '@/components/controls/NumberSlider.vue'
import { useAttempts } from '@/composables/useAttempts'
import { useEdit } from '@/stores/edit'

const props = defineProps<{ clip: string; span: number; value: SpanValue }>()
const edit = useEdit()
/** A speed may be typed far beyond what a slider can be drawn for. */
const MOST_DRAWN = 8
const STEP = 0.01
const set = (value: number) =>
  ({ do: 'set-value', clip: props.clip, span: props.span, name: props.value.name, value }) as const
const attempts = useAttempts(
  set,
  () => props.value.value,
  () => STEP,
)
</script>

<template>
  <NumberSlider
    unit="%"
    :scale="100"
    :step="STEP"
    :label="value.label"
    :min="value.least"
    :max="Math.min(value.most, Math.max(MOST_DRAWN, value.value))"
    :value="value.value"
    :solved="value.solved"
    v-on="attempts"
    @change="edit.run(set($event))"
  />
</template>
