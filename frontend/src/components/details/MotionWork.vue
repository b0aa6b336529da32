<script setup lang="ts">
/** What is seen between pictures, and how long the shutter is open: of a clip, else of the whole edit. */
import { computed } from 'vue'
import type { Clip, Command } from '@/api/client'
import ChoiceRow from '@/components/controls/ChoiceRow.vue'
import NumberSlider from '@/components/controls/NumberSlider.vue'
import { useEdit } from '@/stores/edit'

const props = defineProps<{ clip?: Clip }>()
const edit = useEdit()
type Motion = Omit<Extract<Command, { do: 'set-motion' }>, 'do' | 'clips'>

const OWN = [
  { value: 'held', text: 'Hold' },
  { value: 'blended', text: 'Blend' },
  { value: 'draft', text: 'Flow, draft' },
  { value: 'fine', text: 'Flow, fine' },
] as const
const AS_EDIT = { value: 'as-edit', text: 'As the edit' } as const
const label = computed(() => `In-between frames${props.clip ? ' of this clip' : ''}`)
const options = computed(() => (props.clip ? [...OWN, AS_EDIT] : OWN))
const motion = computed(() => props.clip?.motion ?? edit.edit?.motion)
const chosen = computed(() =>
  props.clip && !props.clip.motion ? AS_EDIT.value : (motion.value?.between ?? 'held'),
)
const shutter = computed(() => motion.value?.shutter ?? 0)

const set = (change: Motion) =>
  edit.run({ do: 'set-motion', clips: props.clip ? [props.clip.id] : [], ...change })
const choose = (value: (typeof chosen)['value']) =>
  set(value === 'as-edit' ? { as_whole: true } : { between: value })
</script>

<template>
  <div class="flex flex-col gap-2">
    <div>
      <p
        class="mb-1 text-muted"
        title="Where a clip is slower than its frames: hold each one, blend it into the next, or move both along their motion"
      >
        {{ label }}
      </p>
      <ChoiceRow class="grid-cols-2" :label="label" :value="chosen" :options="options" @change="choose" />
    </div>
    <NumberSlider
      :label="`Motion blur${clip ? ' of this clip' : ''}`"
      unit="°"
      :min="0"
      :max="360"
      :step="5"
      :value="shutter"
      @change="set({ shutter: $event })"
    />
  </div>
</template>
