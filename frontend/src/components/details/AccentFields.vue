<script setup lang="ts">
/** What an accent is told: its own values first, then how it comes and goes; the rare ones folded. */
import { computed } from 'vue'
import CheckRow from '@/components/controls/CheckRow.vue'
import ChoiceRow from '@/components/controls/ChoiceRow.vue'
import ColourField from '@/components/controls/ColourField.vue'
import NumberField from '@/components/controls/NumberField.vue'
import NumberSlider from '@/components/controls/NumberSlider.vue'
import OnPictureButton from '@/components/controls/OnPictureButton.vue'
import PickList from '@/components/controls/PickList.vue'
import {
  BLENDS,
  FIELDS,
  PHASES,
  RUNS,
  TRAIL_BLENDS,
  isStretch,
  type Accent,
  type AccentChange,
  type What,
} from '@/lib/accents'
import { EASINGS } from '@/lib/pulses'
import { useEdit } from '@/stores/edit'

const props = defineProps<{ accent: Accent }>()
const edit = useEdit()
const what = computed(() => props.accent.what)
const stretch = computed(() => isStretch(props.accent))
const set = (values: AccentChange) => ({ do: 'change-accent', accent: props.accent.id, ...values }) as const
const change = (values: AccentChange) => void edit.run(set(values))
const withValue = (name: string, value: unknown): AccentChange => ({
  what: { ...what.value, [name]: value } as What,
})
const valueOf = (name: string) => Number(what.value[name as keyof What] ?? 0)

const UNITS = computed(() => [
  { value: 'frames' as const, text: 'frames' },
  { value: 'seconds' as const, text: 'seconds' },
  { value: 'beats' as const, text: 'beats' },
  ...(stretch.value ? [{ value: 'share' as const, text: '% of it' }] : []),
])
const unit = computed(() => props.accent.unit ?? 'frames')
const scale = computed(() => (unit.value === 'share' ? 100 : 1))
const LENGTHS = computed(() =>
  stretch.value
    ? ([
        ['lead', 'Lead'],
        ['tail', 'Tail'],
      ] as const)
    : ([
        ['lead', 'Lead'],
        ['hold', 'Hold'],
        ['tail', 'Tail'],
      ] as const),
)
const share = (percent: number) => Math.max(0, Math.min(1, percent / 100))
const again = () => change(withValue('seed', Math.floor(Math.random() * 2 ** 31)))
</script>

<template>
  <div class="flex flex-col gap-1.5">
    <div v-if="'colour' in what || 'blend' in what" class="grid grid-cols-2 items-end gap-x-2">
      <ColourField
        v-if="'colour' in what"
        label="Colour"
        :value="what.colour"
        @change="change(withValue('colour', $event))"
      />
      <PickList
        v-if="what.kind === 'tint' || what.kind === 'trail'"
        label="Blend mode"
        :model-value="what.blend ?? 'normal'"
        :options="what.kind === 'trail' ? TRAIL_BLENDS : BLENDS"
        @update:model-value="change(withValue('blend', $event))"
      />
    </div>
    <NumberSlider
      v-for="field in FIELDS[what.kind]"
      :key="field.name"
      v-bind="field"
      :value="valueOf(field.name)"
      @input="edit.dryRun(set(withValue(field.name, $event)))"
      @change="change(withValue(field.name, $event))"
    />
    <OnPictureButton v-if="what.kind === 'zoom-blur'" :tool="{ kind: 'accent', accent: accent.id }" />
    <CheckRow v-if="what.kind === 'punch'" :checked="what.steps" @change="change(withValue('steps', $event))">
      Step up at each, back after the last
    </CheckRow>
    <button v-if="what.kind === 'shake'" class="btn justify-center" @click="again">Draw again</button>
    <ChoiceRow
      v-if="!stretch"
      class="grid-cols-3"
      label="When"
      :value="accent.phase ?? 'on'"
      :options="PHASES"
      @change="change({ phase: $event })"
    />
    <div class="grid grid-cols-2 items-end gap-x-2 gap-y-1">
      <NumberField
        v-for="[name, label] in LENGTHS"
        :key="name"
        :label="label"
        :min="0"
        step="any"
        :digits="unit === 'seconds' || unit === 'beats' ? 2 : 0"
        :value="scale * (accent[name] ?? 0)"
        @change="change({ [name]: $event / scale })"
      />
      <PickList
        label="Unit"
        :model-value="unit"
        :options="UNITS"
        @update:model-value="change({ unit: $event })"
      />
    </div>
    <details>
      <summary class="cursor-pointer text-[12px] leading-6 text-muted">Easing, strength, speed</summary>
      <div class="mt-1 grid grid-cols-2 items-end gap-x-2 gap-y-1">
        <PickList
          label="Lead easing"
          :model-value="accent.rise ?? 'straight'"
          :options="EASINGS"
          @update:model-value="change({ rise: $event })"
        />
        <PickList
          label="Tail easing"
          :model-value="accent.fall ?? 'straight'"
          :options="EASINGS"
          @update:model-value="change({ fall: $event })"
        />
        <NumberField
          label="By strength, %"
          title="How far it follows the strength of its cue"
          :min="0"
          :max="100"
          :value="100 * (accent.by_strength ?? 0)"
          @change="change({ by_strength: share($event) })"
        />
        <NumberField
          label="By speed, %"
          title="How far it follows how fast the picture runs"
          :min="0"
          :max="100"
          :value="100 * (accent.by_speed ?? 0)"
          @change="change({ by_speed: share($event) })"
        />
        <PickList
          class="col-span-2"
          label="Active"
          :model-value="accent.runs ?? 'any'"
          :options="[...RUNS]"
          @update:model-value="change({ runs: $event })"
        />
      </div>
    </details>
  </div>
</template>
