<script setup lang="ts">
/** One tooth of a pulse, changed alone: silent, or with an amount of its own. */
import { computed, onMounted, useTemplateRef, watch } from 'vue'
import CheckRow from '@/components/controls/CheckRow.vue'
import NumberField from '@/components/controls/NumberField.vue'
import type { Pulse, PulseValues, Tooth } from '@/lib/pulses'

const props = defineProps<{ tooth: Tooth; pulse: Pulse }>()
const emit = defineEmits<{ change: [values: PulseValues] }>()
const root = useTemplateRef<HTMLElement>('root')
/** A tooth is chosen on its lane, which may be far from here. */
const show = () => root.value?.scrollIntoView({ block: 'nearest' })
onMounted(show)
watch(() => props.tooth.cue, show)

const own = computed(() => props.pulse.own?.find(({ cue }) => cue === props.tooth.cue)?.amount)

function silence(silent: boolean): void {
  const others = (props.pulse.silent ?? []).filter((cue) => cue !== props.tooth.cue)
  emit('change', { silent: silent ? [...others, props.tooth.cue] : others })
}
function setOwn(amount?: number): void {
  const others = (props.pulse.own ?? []).filter(({ cue }) => cue !== props.tooth.cue)
  emit('change', { own: amount === undefined ? others : [...others, { cue: props.tooth.cue, amount }] })
}
</script>

<template>
  <div
    ref="root"
    class="flex flex-col gap-1 rounded border border-line p-1.5"
    role="group"
    :aria-label="`Tooth at frame ${tooth.n}`"
  >
    <p class="num text-[12px]">Tooth at frame {{ tooth.n }}</p>
    <CheckRow :checked="tooth.silent" @change="silence">Silent</CheckRow>
    <NumberField
      v-if="pulse.pattern !== 'again'"
      label="Own amount"
      step="any"
      :digits="pulse.unit === 'frames' ? 0 : 2"
      :value="own ?? pulse.amounts?.[0] ?? 0"
      @change="setOwn"
    />
    <button v-if="own !== undefined" class="btn justify-center" @click="setOwn()">Same as the others</button>
  </div>
</template>
