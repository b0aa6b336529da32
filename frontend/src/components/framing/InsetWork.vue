<script setup lang="ts">
/** A clip laid in a part of the frame: where, how large, in what shape, and without its background. */
import { computed } from 'vue'
import type { Clip, Command } from '@/api/client'
import CheckRow from '@/components/controls/CheckRow.vue'
import ChoiceRow from '@/components/controls/ChoiceRow.vue'
import ColourField from '@/components/controls/ColourField.vue'
import NumberField from '@/components/controls/NumberField.vue'
import NumberSlider from '@/components/controls/NumberSlider.vue'
import OnPictureButton from '@/components/controls/OnPictureButton.vue'
import { insetOf } from '@/lib/insets'
import { useEdit } from '@/stores/edit'
import { useOnPicture } from '@/stores/onPicture'

const props = defineProps<{ clip: Clip }>()
const edit = useEdit()
const onPicture = useOnPicture()
const inset = computed(() => insetOf(props.clip))
type Values = Omit<Extract<Command, { do: 'inset-clip' }>, 'do' | 'clip'>
const saying = (values: Values): Command => ({ do: 'inset-clip', clip: props.clip.id, ...values })
const say = (values: Values) => edit.run(saying(values))
const SHAPES = [
  { value: 'box', text: 'Box' },
  { value: 'ellipse', text: 'Ellipse' },
] as const
/** Rooms beside the edge, in parts of the frame. */
const MARGIN = 0.04
const CORNERS = [
  { value: 'top left', text: '↖' },
  { value: 'top right', text: '↗' },
  { value: 'bottom left', text: '↙' },
  { value: 'bottom right', text: '↘' },
] as const
const inCorner = (corner: string): Values => {
  const { width, height } = inset.value
  const [x, y] = [MARGIN + width / 2, MARGIN + height / 2]
  return { x: corner.includes('left') ? x : 1 - x, y: corner.includes('top') ? y : 1 - y }
}
const SIZES = [
  { name: 'width', label: 'Width' },
  { name: 'height', label: 'Height' },
] as const
const KEYING = [
  { name: 'near', label: 'Tolerance', step: 0.01, min: 0, max: 1 },
  { name: 'soft', label: 'Softness', step: 0.01, min: 0.01, max: 1 },
  { name: 'spill', label: 'Spill removal', step: 0.01, min: 0, max: 1 },
] as const
const key = (values: Omit<Extract<Command, { do: 'key-out' }>, 'do' | 'clip'>): Command => ({
  do: 'key-out',
  clip: props.clip.id,
  ...values,
})
async function lay(): Promise<void> {
  if (await say({ ...inCorner('top right') })) onPicture.tool = { kind: 'inset', clip: props.clip.id }
}
/** Green is what most backgrounds are that are meant to go. */
const GREEN = '#00b140'
</script>

<template>
  <details class="mt-1" :open="!!clip.inset">
    <summary class="cursor-pointer leading-6 text-muted">Inset</summary>
    <div class="mt-2 flex flex-col gap-2" role="group" aria-label="Inset">
      <button v-if="!clip.inset" class="btn justify-center" @click="lay">Put it in a corner</button>
      <template v-else>
        <div class="grid grid-cols-[1fr_auto] items-center gap-2">
          <OnPictureButton :tool="{ kind: 'inset', clip: clip.id }" />
          <div class="grid grid-cols-4 gap-0.5 rounded-md bg-ground p-1">
            <button
              v-for="corner in CORNERS"
              :key="corner.value"
              class="min-h-6 min-w-6 rounded text-center hover:bg-raised"
              :aria-label="`Into the ${corner.value} corner`"
              @click="say(inCorner(corner.value))"
            >
              {{ corner.text }}
            </button>
          </div>
        </div>
        <ChoiceRow
          class="grid-cols-2"
          label="Shape of the inset"
          :value="inset.shape"
          :options="SHAPES"
          @change="say({ shape: $event })"
        />
        <NumberSlider
          v-for="{ name, label } in SIZES"
          :key="name"
          :label="label"
          unit="%"
          :scale="100"
          :min="0.02"
          :max="1"
          :step="0.01"
          :value="inset[name]"
          @input="edit.dryRun(saying({ [name]: $event }))"
          @change="say({ [name]: $event })"
        />
        <div class="grid items-end gap-2" :class="inset.keying ? '' : 'grid-cols-3'">
          <NumberField
            label="Fade, frames"
            :min="0"
            :max="600"
            :value="inset.fade"
            @change="say({ fade: Math.round($event) })"
          />
          <template v-if="!inset.keying">
            <NumberField
              label="Border, %"
              :min="0"
              :max="10"
              step="any"
              :digits="1"
              :value="100 * inset.border"
              @change="say({ border: $event / 100 })"
            />
            <ColourField
              label="Its colour"
              :value="inset.border_colour"
              @change="say({ border_colour: $event })"
            />
          </template>
        </div>
        <CheckRow :checked="!!inset.keying" @change="edit.run(key($event ? { colour: GREEN } : {}))">
          Key out the background
        </CheckRow>
        <template v-if="inset.keying">
          <div class="grid grid-cols-2 items-end gap-2">
            <ColourField
              label="Background"
              :value="inset.keying.colour"
              @change="edit.run(key({ colour: $event }))"
            />
            <OnPictureButton :tool="{ kind: 'background', clip: clip.id }">Pick colour</OnPictureButton>
          </div>
          <NumberSlider
            v-for="{ name, ...field } in KEYING"
            :key="name"
            v-bind="field"
            unit="%"
            :scale="100"
            :value="inset.keying[name] ?? 0"
            @input="edit.dryRun(key({ [name]: $event }))"
            @change="edit.run(key({ [name]: $event }))"
          />
        </template>
        <button class="btn justify-center" @click="edit.run({ do: 'fill-frame', clip: clip.id })">
          Fill the frame again
        </button>
      </template>
    </div>
  </details>
</template>
