<script setup lang="ts">
/** The rarer values of a pulse: which of its cues count, how the amount goes with them, along which easing. */
import CheckRow from '@/components/controls/CheckRow.vue'
import NumberField from '@/components/controls/NumberField.vue'
import PickList from '@/components/controls/PickList.vue'
import { MOST_PINS } from '@/lib/terms'
import { EASINGS, type Pulse, type PulseValues } from '@/lib/pulses'

defineProps<{ pulse: Pulse }>()
const emit = defineEmits<{ change: [values: PulseValues] }>()
const change = (values: PulseValues) => emit('change', values)
const whole = (value: number) => Math.max(1, Math.round(value))
const share = (percent: number) => Math.max(0, Math.min(1, percent / 100))
</script>

<template>
  <details>
    <summary class="cursor-pointer text-[12px] leading-6 text-muted">Cues and easing</summary>
    <div class="mt-1 grid grid-cols-2 items-end gap-x-2 gap-y-1">
      <NumberField
        label="Every nth cue"
        :min="1"
        :value="pulse.every ?? 1"
        @change="change({ every: whole($event) })"
      />
      <NumberField
        label="Lead-in, frames"
        :value="pulse.early ?? 0"
        @change="change({ early: Math.round($event) })"
      />
      <NumberField
        label="First cue"
        :min="1"
        :value="pulse.first ?? 1"
        @change="change({ first: whole($event) })"
      />
      <NumberField
        label="Last cue"
        :min="1"
        without="all"
        :value="(pulse.last ?? MOST_PINS) < MOST_PINS ? pulse.last! : null"
        @change="change({ last: whole($event) })"
      />
      <NumberField
        label="Least strength, %"
        :min="0"
        :value="100 * (pulse.least ?? 0)"
        @change="change({ least: share($event) })"
      />
      <NumberField
        label="By strength, %"
        title="How far the amount follows the strength of its cue"
        :min="0"
        :value="100 * (pulse.by_strength ?? 0)"
        @change="change({ by_strength: share($event) })"
      />
      <NumberField
        label="Growth, %"
        title="From each cue to the next"
        :min="10"
        :value="100 * (pulse.growth ?? 1)"
        @change="change({ growth: $event / 100 })"
      />
      <PickList
        label="Attack easing"
        :model-value="pulse.rise ?? 'soft'"
        :options="EASINGS"
        @update:model-value="change({ rise: $event })"
      />
      <PickList
        v-if="pulse.pattern === 'push'"
        label="Release easing"
        :model-value="pulse.fall ?? 'soft'"
        :options="EASINGS"
        @update:model-value="change({ fall: $event })"
      />
    </div>
    <CheckRow
      class="mt-1"
      :checked="pulse.at_end === 'turn'"
      @change="change({ at_end: $event ? 'turn' : 'stop' })"
    >
      Reverse at the ends of the take
    </CheckRow>
  </details>
</template>
