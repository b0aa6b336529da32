<script setup lang="ts">
/** The tint from a cue on: added, changed, taken away. */
import { computed } from 'vue'
import NumberField from '@/components/controls/NumberField.vue'
import PickList from '@/components/controls/PickList.vue'
import { useAccent } from '@/composables/useAccent'
import type { Blend } from '@/lib/stack'
import { useEdit } from '@/stores/edit'

const props = defineProps<{ cue: string }>()
const edit = useEdit()
const { accent: tint, change } = useAccent('tint', () => props.cue)

const BLENDS: { value: Blend; text: string }[] = [
  { value: 'soft-light', text: 'soft light' },
  { value: 'color', text: 'colour' },
  { value: 'multiply', text: 'multiply' },
  { value: 'screen', text: 'screen' },
  { value: 'overlay', text: 'overlay' },
  { value: 'hard-light', text: 'hard light' },
  { value: 'darken', text: 'darken' },
  { value: 'lighten', text: 'lighten' },
  { value: 'color-dodge', text: 'colour dodge' },
  { value: 'color-burn', text: 'colour burn' },
  { value: 'difference', text: 'difference' },
  { value: 'exclusion', text: 'exclusion' },
  { value: 'normal', text: 'normal' },
]
const blend = computed({ get: () => tint.value?.blend ?? 'soft-light', set: (blend) => change({ blend }) })
const LENGTHS = [
  ['lead', 'Lead, fr.'],
  ['hold', 'Hold, fr.'],
  ['tail', 'Tail, fr.'],
] as const
const read = (event: Event) => (event.target as HTMLInputElement).value
</script>

<template>
  <button v-if="!tint" class="btn justify-center" @click="edit.run({ do: 'add-tint', at: cue })">
    Tint from here
  </button>
  <fieldset v-else class="grid grid-cols-3 items-end gap-x-2 gap-y-1">
    <legend class="heading float-left col-span-3 w-full">Tint</legend>
    <label class="flex flex-col gap-0.5">
      <span class="text-muted">Colour</span>
      <input
        type="color"
        class="field h-8 w-full p-1!"
        :value="tint.colour"
        @change="change({ colour: read($event) })"
      />
    </label>
    <PickList v-model="blend" class="col-span-2" label="Blend mode" :options="BLENDS" />
    <NumberField
      label="Amount, %"
      class="col-span-3"
      :min="1"
      :max="100"
      :value="tint.amount! * 100"
      @change="change({ amount: $event / 100 })"
    />
    <NumberField
      v-for="[name, label] in LENGTHS"
      :key="name"
      :label="label"
      :min="0"
      :max="600"
      :value="tint[name]!"
      @change="change({ [name]: Math.round($event) })"
    />
    <button class="btn col-span-3 justify-center" @click="edit.run({ do: 'remove-accent', accent: tint.id })">
      Remove the tint
    </button>
  </fieldset>
</template>
