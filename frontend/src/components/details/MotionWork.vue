<script setup lang="ts">
/** What is seen between pictures, and how long the shutter is open: of a span, of its clip, of the whole edit. */
import { computed } from 'vue'
import type { Clip, Command } from '@/api/client'
import CheckRow from '@/components/controls/CheckRow.vue'
import ChoiceRow from '@/components/controls/ChoiceRow.vue'
import NumberSlider from '@/components/controls/NumberSlider.vue'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'
import DoubtList from './DoubtList.vue'

const props = defineProps<{ clip?: Clip; span?: number }>()
const edit = useEdit()
const view = useView()
type Motion = Omit<Extract<Command, { do: 'set-motion' }>, 'do' | 'clips' | 'span'>

const OWN = [
  { value: 'held', text: 'Hold' },
  { value: 'blended', text: 'Blend' },
  { value: 'automatic', text: 'Automatic' },
  { value: 'draft', text: 'Flow' },
  { value: 'fine', text: 'Fine flow' },
] as const
const WHOLE = 'as-whole'
const ofSpan = computed(() => props.span !== undefined)
const of = computed(() => (ofSpan.value ? ' of this span' : props.clip ? ' of this clip' : ''))
const label = computed(() => `In-between frames${of.value}`)
const options = computed(() =>
  props.clip ? [...OWN, { value: WHOLE, text: ofSpan.value ? 'As the clip' : 'As the edit' } as const] : OWN,
)
/** What it says itself; null where it goes by what it is part of. */
const own = computed(() => {
  if (!props.clip) return edit.edit?.motion
  return ofSpan.value ? props.clip.spans[props.span!]?.motion : props.clip.motion
})
const motion = computed(() => own.value ?? props.clip?.motion ?? edit.edit?.motion)
const chosen = computed(() => (own.value ? (own.value.between ?? 'held') : props.clip ? WHOLE : 'held'))
const isAutomatic = computed(() => motion.value?.between === 'automatic')
const shutter = computed(() => motion.value?.shutter ?? 0)

const set = (change: Motion) =>
  edit.run({ do: 'set-motion', clips: props.clip ? [props.clip.id] : [], span: props.span, ...change })
const choose = (value: (typeof chosen)['value']) =>
  set(value === WHOLE ? { as_whole: true } : { between: value })
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
      <ChoiceRow class="grid-cols-3" :label="label" :value="chosen" :options="options" @change="choose" />
      <p v-if="isAutomatic" class="mt-1 text-muted">
        Flow where a clip is slower than its frames; a shutter of up to 180° where it is faster; each frame as
        it is in between.
      </p>
    </div>
    <NumberSlider
      v-if="!isAutomatic"
      :label="`Motion blur${of}`"
      unit="°"
      :min="0"
      :max="360"
      :step="5"
      :value="shutter"
      @change="set({ shutter: $event })"
    />
    <template v-if="clip && !ofSpan">
      <DoubtList :clip="clip" />
      <CheckRow
        v-if="edit.derivedById.get(clip.id)?.mix"
        :checked="view.split !== null && view.beside === 'take'"
        title="The take's own frame beside the edit's (Y)"
        @change="view.splitBeside($event ? 'take' : null)"
      >
        Split view: take, edit
      </CheckRow>
    </template>
  </div>
</template>
