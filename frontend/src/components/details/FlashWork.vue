<script setup lang="ts">
/** The flash on a cue: added, changed, taken away. */
import NumberField from '@/components/controls/NumberField.vue'
import { useAccent } from '@/composables/useAccent'
import { useEdit } from '@/stores/edit'

const props = defineProps<{ cue: string }>()
const edit = useEdit()
const { accent: flash, change } = useAccent('flash', () => props.cue)
</script>

<template>
  <button v-if="!flash" class="btn justify-center" @click="edit.run({ do: 'add-flash', at: cue })">
    Flash here
  </button>
  <fieldset v-else class="grid grid-cols-3 items-end gap-x-2 gap-y-1">
    <legend class="heading float-left col-span-3 w-full">Flash</legend>
    <NumberField
      label="Light, %"
      :min="1"
      :max="100"
      :value="flash.light! * 100"
      @change="change({ light: $event / 100 })"
    />
    <NumberField
      label="Lead, fr."
      :min="0"
      :max="600"
      :value="flash.lead!"
      @change="change({ lead: Math.round($event) })"
    />
    <NumberField
      label="Tail, fr."
      :min="0"
      :max="600"
      :value="flash.tail!"
      @change="change({ tail: Math.round($event) })"
    />
    <button
      class="btn col-span-3 justify-center"
      @click="edit.run({ do: 'remove-accent', accent: flash.id })"
    >
      Remove the flash
    </button>
  </fieldset>
</template>
