<script setup lang="ts">
/** What a title says, how it looks, when it is seen, and how it comes and goes. */
import { computed } from 'vue'
import CheckRow from '@/components/controls/CheckRow.vue'
import ChoiceRow from '@/components/controls/ChoiceRow.vue'
import ColourField from '@/components/controls/ColourField.vue'
import NumberField from '@/components/controls/NumberField.vue'
import NumberSlider from '@/components/controls/NumberSlider.vue'
import OnPictureButton from '@/components/controls/OnPictureButton.vue'
import PickList from '@/components/controls/PickList.vue'
import { ENTRANCES, entranceOf, type Title, type TitleChange } from '@/lib/titles'
import { vTyped } from '@/lib/typing'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'

const props = defineProps<{ title: Title }>()
const edit = useEdit()
const view = useView()
const change = (values: TitleChange) =>
  void edit.run({ do: 'change-title', title: props.title.id, ...values })
const FONTS = [
  { value: 'sans', text: 'Sans' },
  { value: 'serif', text: 'Serif' },
] as const
const ALIGNS = [
  { value: 'left', text: 'Left' },
  { value: 'middle', text: 'Middle' },
  { value: 'right', text: 'Right' },
] as const
const BEHINDS = [
  { value: 'nothing', text: 'Nothing' },
  { value: 'shadow', text: 'Shadow' },
  { value: 'plate', text: 'Plate' },
] as const
const SIDES = [
  { side: 'comes', label: 'Comes' },
  { side: 'goes', label: 'Goes' },
] as const
const OWN = { value: 'own', text: 'its own way' }
const ways = ENTRANCES.map(({ value, text }) => ({ value, text }))
const since = computed(() => edit.frameOf(props.title.since))
const until = computed(() => edit.frameOf(props.title.until))

function say(event: Event): void {
  const text = (event.target as HTMLTextAreaElement).value
  if (text.trim()) change({ text })
  else (event.target as HTMLTextAreaElement).value = props.title.text
}
function come(side: 'comes' | 'goes', value: string): void {
  const way = ENTRANCES.find((each) => each.value === value)?.way
  if (way) change({ [side]: { ...way, frames: way.frames && (props.title[side]?.frames || way.frames) } })
}
const take = (side: 'comes' | 'goes', frames: number) =>
  change({ [side]: { ...props.title[side], frames: Math.max(0, Math.round(frames)) } })
const card = (on: boolean) => change({ card: on ? '#000000' : 'none' })
</script>

<template>
  <div class="flex flex-col gap-1.5">
    <textarea
      v-typed="title.text"
      class="field resize-y leading-5"
      rows="2"
      aria-label="Text"
      dir="auto"
      @change="say"
      @keydown.stop
    />
    <div class="grid grid-cols-2 items-end gap-x-2">
      <PickList
        label="Font"
        :model-value="title.font ?? 'sans'"
        :options="[...FONTS]"
        @update:model-value="change({ font: $event })"
      />
      <ColourField label="Colour" :value="title.colour" @change="change({ colour: $event })" />
    </div>
    <CheckRow :checked="title.bold ?? true" @change="change({ bold: $event })">Bold</CheckRow>
    <NumberSlider
      label="Size"
      unit="%"
      :scale="100"
      :min="0.02"
      :max="0.5"
      :step="0.005"
      :value="title.size ?? 0.12"
      @change="change({ size: Math.min(0.5, Math.max(0.02, $event)) })"
    />
    <ChoiceRow
      class="grid-cols-3"
      label="Alignment"
      :value="title.align ?? 'middle'"
      :options="ALIGNS"
      @change="change({ align: $event })"
    />
    <ChoiceRow
      class="grid-cols-3"
      label="Behind the letters"
      :value="title.behind ?? 'shadow'"
      :options="BEHINDS"
      @change="change({ behind: $event })"
    />
    <div class="grid grid-cols-2 items-end gap-x-2">
      <NumberField
        label="From frame"
        :min="0"
        :value="since"
        @change="change({ since: Math.round($event) })"
      />
      <NumberField
        label="To before frame"
        :min="1"
        :value="until"
        :disabled="title.to_end"
        @change="change({ until: Math.round($event) })"
      />
    </div>
    <div class="grid grid-cols-2 gap-1">
      <button class="btn justify-center px-1!" @click="change({ since: edit.placeOn(view.frame) })">
        From here
      </button>
      <button
        class="btn justify-center px-1!"
        @click="change({ until: edit.placeOn(view.frame), to_end: false })"
      >
        To here
      </button>
    </div>
    <div v-for="{ side, label } in SIDES" :key="side" class="grid grid-cols-[1fr_72px] items-end gap-x-2">
      <PickList
        :label="label"
        :model-value="entranceOf(title[side]) ?? OWN.value"
        :options="entranceOf(title[side]) ? ways : [...ways, OWN]"
        @update:model-value="come(side, $event)"
      />
      <NumberField label="Frames" :min="0" :value="title[side]?.frames ?? 8" @change="take(side, $event)" />
    </div>
    <OnPictureButton :tool="{ kind: 'title', title: title.id }">Place it on the picture</OnPictureButton>
    <details>
      <summary class="cursor-pointer text-[12px] leading-6 text-muted">Card, end, copy</summary>
      <div class="mt-1 flex flex-col gap-1.5">
        <CheckRow :checked="!!title.card" @change="card">On a card that hides the picture</CheckRow>
        <ColourField
          v-if="title.card"
          label="Colour of the card"
          :value="title.card"
          @change="change({ card: $event })"
        />
        <CheckRow :checked="title.to_end ?? false" @change="change({ to_end: $event })">
          Stays until the edit ends
        </CheckRow>
        <button
          class="btn justify-center"
          @click="edit.run({ do: 'copy-title', title: title.id, to: view.frame })"
        >
          Copy to here
        </button>
      </div>
    </details>
  </div>
</template>
