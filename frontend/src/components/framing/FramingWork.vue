<script setup lang="ts">
/** How a clip's picture lies in the frame: its keys, and the values of the one at hand. */
import { X } from '@lucide/vue'
import { computed, toRef } from 'vue'
import type { Clip } from '@/api/client'
import ChoiceRow from '@/components/controls/ChoiceRow.vue'
import NumberSlider from '@/components/controls/NumberSlider.vue'
import OnPictureButton from '@/components/controls/OnPictureButton.vue'
import PickList from '@/components/controls/PickList.vue'
import RowAction from '@/components/RowAction.vue'
import { useFraming, type FramingValues, type PlacedKey } from '@/composables/useFraming'
import { momentName } from '@/lib/names'
import { EASINGS } from '@/lib/pulses'
import { kindName } from '@/lib/terms'
import { useEdit } from '@/stores/edit'
import { useMontage } from '@/stores/montage'
import { useView } from '@/stores/view'
import TrackedPoints from './TrackedPoints.vue'

const props = defineProps<{ clip: Clip }>()
const edit = useEdit()
const montage = useMontage()
const view = useView()
const { keys, current, isSet, places, say, tryOut, addHere } = useFraming(toRef(props, 'clip'))
const take = computed(() => edit.takeOf(props.clip.id))
const FITS = [
  { value: 'fill', text: 'Fill' },
  { value: 'fit', text: 'Fit in' },
] as const
const SIDES = [
  ['across', 'Crop across'],
  ['down', 'Crop down'],
] as const
/** Whether something of the take is cut off, or black shows beside it. */
const otherProportions = computed(() => {
  const { width = 16, height = 9 } = edit.edit ?? {}
  return !!take.value && Math.abs(take.value.width / take.value.height - width / height) > 0.01
})
const FIELDS = [
  { name: 'x', label: 'Across', min: -1, max: 1, step: 0.005, unit: '%', scale: 100, still: 0 },
  { name: 'y', label: 'Down', min: -1, max: 1, step: 0.005, unit: '%', scale: 100, still: 0 },
  { name: 'scale', label: 'Scale', min: 0.05, max: 4, step: 0.01, unit: '%', scale: 100, still: 1 },
  { name: 'turn', label: 'Turn', min: -180, max: 180, step: 0.5, unit: '°', still: 0 },
] as const

/** What a key stands on, in words. */
function standsOn({ at, n }: PlacedKey): string {
  const cue = edit.cueById.get(at.cue ?? '')
  const moment = take.value?.moments?.find(({ id }) => id === at.moment)
  return moment ? momentName(moment) : cue ? `${kindName(cue.kind)} ${cue.at.toFixed(2)} s` : `frame ${n}`
}
const stands = computed({
  get: () => {
    const { at } = current.value!
    return at.cue ? `cue ${at.cue}` : at.moment ? `moment ${at.moment}` : 'n'
  },
  set: (value) => {
    const place = places.value.find((each) => each.value === value)
    if (place && current.value)
      void edit.run({
        do: 'change-framing-key',
        clip: props.clip.id,
        key: current.value.id,
        ...place.at,
      })
  },
})
/** A key is come to along a published easing, or as a span of that shape runs. */
type Ease = NonNullable<FramingValues['ease']>
type Bend = Exclude<Ease, string>
const BENDS: { value: Bend['shape']; text: string }[] = [
  { value: 'dip', text: 'dip' },
  { value: 'swell', text: 'swell' },
  { value: 'build', text: 'build' },
  { value: 'brake', text: 'brake' },
]
const COURSES = [...EASINGS, ...BENDS]
const bend = computed(() => (typeof current.value?.ease === 'object' ? current.value.ease : null))
const course = computed({
  get: () => bend.value?.shape ?? (current.value?.ease as Exclude<Ease, Bend> | undefined) ?? 'soft',
  set: (value) => {
    const shape = BENDS.find((each) => each.value === value)?.value
    say({ ease: shape ? { shape, strength: bend.value?.strength ?? 0.5 } : (value as Ease) })
  },
})
const others = computed(() => montage.mine.filter((id) => id !== props.clip.id))
const copy = () => edit.run({ do: 'copy-framing', clip: props.clip.id, to: others.value })
const remove = (key: string) => edit.run({ do: 'remove-framing-key', clip: props.clip.id, key })
</script>

<template>
  <details class="mt-1">
    <summary class="cursor-pointer leading-6 text-muted">Framing</summary>
    <div class="mt-2 flex flex-col gap-2" role="group" aria-label="Framing">
      <ChoiceRow
        class="grid-cols-2"
        label="Picture"
        :value="clip.fit"
        :options="FITS"
        @change="edit.run({ do: 'frame-clip', clip: clip.id, fit: $event })"
      />
      <p class="text-[12px] text-muted">
        {{
          clip.fit === 'fit' ? 'Black may show around the picture.' : 'Grows as needed: no edge ever shows.'
        }}
      </p>
      <template v-if="otherProportions">
        <NumberSlider
          v-for="[side, text] in SIDES"
          :key="side"
          :label="text"
          unit="%"
          :scale="100"
          :min="0"
          :max="1"
          :step="0.01"
          :value="clip[side] ?? 0.5"
          @change="edit.run({ do: 'frame-clip', clip: clip.id, [side]: $event })"
        />
      </template>
      <ul v-if="keys.length" class="flex flex-col gap-0.5" aria-label="Keys">
        <li
          v-for="key in keys"
          :key="key.id"
          class="flex items-center gap-1 rounded"
          :class="key === current ? 'bg-raised ring-1 ring-brass' : 'hover:bg-raised'"
        >
          <button
            class="num flex min-w-0 flex-1 items-baseline gap-2 px-1.5 py-1 text-left"
            :aria-current="key === current"
            @click="view.seekFrame(key.n)"
          >
            <span class="truncate">{{ standsOn(key) }}</span>
            <span class="ml-auto text-[12px] text-muted">{{ Math.round(100 * (key.scale ?? 1)) }} %</span>
          </button>
          <RowAction :label="`Remove the key on ${standsOn(key)}`" @click="remove(key.id)">
            <X :size="14" aria-hidden="true" />
          </RowAction>
        </li>
      </ul>
      <template v-if="isSet">
        <NumberSlider
          v-for="{ name, still, ...field } in FIELDS"
          :key="name"
          v-bind="field"
          :value="current?.[name] ?? still"
          @input="tryOut({ [name]: $event })"
          @change="say({ [name]: $event })"
        />
        <div v-if="current && keys.length > 1" class="grid grid-cols-2 gap-2">
          <PickList v-model="course" label="Easing" :options="COURSES" />
          <PickList v-model="stands" label="Bound to" :options="places" />
        </div>
        <NumberSlider
          v-if="current && bend"
          label="Strength"
          unit="%"
          :scale="100"
          :min="0"
          :max="1"
          :step="0.01"
          :value="bend.strength ?? 0.5"
          @input="tryOut({ ease: { ...bend, strength: $event } })"
          @change="say({ ease: { ...bend, strength: $event } })"
        />
      </template>
      <div class="grid grid-cols-2 gap-1">
        <button class="btn justify-center" :disabled="isSet && keys.length > 1" @click="addHere">
          Set a key here
        </button>
        <OnPictureButton :tool="{ kind: 'framing', clip: clip.id }" />
      </div>
      <button v-if="keys.length && others.length" class="btn justify-center" @click="copy">
        Same framing for the other chosen clips
      </button>
      <TrackedPoints v-if="take" :clip="clip" :take="take" />
    </div>
  </details>
</template>
