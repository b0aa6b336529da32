<script setup lang="ts">
/** A length, typed in the unit that a person thinks in; `change` tells what was typed. */
import { computed } from 'vue'
import { useLocalStorage } from '@vueuse/core'
import type { Length } from '@/api/client'
import { useEdit } from '@/stores/edit'
import NumberField from './NumberField.vue'
import PickList from './PickList.vue'

type Unit = NonNullable<Length['unit']>
const props = defineProps<{ label: string; frames?: number; typed?: Length; units: readonly Unit[] }>()
const emit = defineEmits<{ change: [length: Length] }>()
const edit = useEdit()
const chosen = useLocalStorage<Unit>('izmet-length-unit', 'frames')
const unit = computed({
  get: () => (props.units.includes(chosen.value) ? chosen.value : props.units[0]!),
  set: (unit) => (chosen.value = unit),
})
const options = computed(() => props.units.map((value) => ({ value, text: value })))
/** A beat in seconds, for the eye alone: where the tempo changes the server counts the beats. */
const beat = computed(() => 60 / (edit.music?.tempo || 60))
const sizes = computed(() => ({
  frames: edit.clock.time(1),
  seconds: 1,
  beats: beat.value,
  percent: edit.clock.time(props.frames ?? 100) / 100,
}))
/** What there is now, or was typed last, in the unit. */
const shown = computed(() => {
  const { count, unit: from } = { unit: 'frames' as Unit, ...(props.typed ?? { count: props.frames ?? 1 }) }
  return from === unit.value ? count : (count * sizes.value[from]) / sizes.value[unit.value]
})
</script>

<template>
  <div class="grid grid-cols-[1fr_92px] items-end gap-1">
    <NumberField
      :label="`${label}, ${unit}`"
      :min="0"
      step="any"
      :value="shown"
      :digits="unit === 'frames' || unit === 'percent' ? 0 : 2"
      @change="$event > 0 && emit('change', { count: $event, unit })"
    />
    <PickList v-model="unit" label="Unit" hide-label :options="options" />
  </div>
</template>
