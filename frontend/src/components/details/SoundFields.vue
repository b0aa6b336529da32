<script setup lang="ts">
/** What a laid sound is told: how loud, how long, what of it lands where; the rare ones folded. */
import { computed } from 'vue'
import CheckRow from '@/components/controls/CheckRow.vue'
import ChoiceRow from '@/components/controls/ChoiceRow.vue'
import LevelSlider from '@/components/controls/LevelSlider.vue'
import NumberField from '@/components/controls/NumberField.vue'
import NumberSlider from '@/components/controls/NumberSlider.vue'
import PickList from '@/components/controls/PickList.vue'
import { isStretch } from '@/lib/accents'
import { isRising, type Duck, type Sound, type SoundChange } from '@/lib/sounds'
import { useEdit } from '@/stores/edit'

const props = defineProps<{ sound: Sound }>()
const edit = useEdit()
const change = (values: SoundChange) =>
  void edit.run({ do: 'change-sound', sound: props.sound.id, ...values })
const made = computed(() => (props.sound.what.kind === 'made' ? props.sound.what : null))
const recorded = computed(() => (props.sound.what.kind === 'file' ? props.sound.what : null))
/** In a stretch what rises is as long as that. */
const asLong = computed(() => isStretch(props.sound) && isRising(props.sound))
const UNITS = [
  { value: 'seconds', text: 'seconds' },
  { value: 'beats', text: 'beats' },
] as const
const LANDS = [
  { value: 'attack', text: 'Attack' },
  { value: 'end', text: 'End' },
] as const
const EXACT = [
  { value: 'cue', text: 'The cue' },
  { value: 'frame', text: 'Its frame' },
] as const
const DUCKS: { name: Exclude<keyof Duck, 'by'>; label: string }[] = [
  { name: 'attack', label: 'Attack, s' },
  { name: 'hold', label: 'Hold, s' },
  { name: 'release', label: 'Release, s' },
]
const duck = (values: Partial<Duck>) => change({ duck: { ...props.sound.duck, ...values } as Duck })
const again = () =>
  made.value && change({ what: { ...made.value, seed: Math.floor(Math.random() * 2 ** 31) } })
</script>

<template>
  <div class="flex flex-col gap-1.5">
    <LevelSlider label="Level" :value="sound.level ?? 0" @change="change({ level: $event })" />
    <div v-if="made && !asLong" class="grid grid-cols-2 items-end gap-x-2">
      <NumberField
        label="Length"
        :min="0.01"
        step="any"
        :digits="2"
        :value="made.length ?? 1"
        @change="$event > 0 && change({ what: { ...made, length: $event } })"
      />
      <PickList
        label="Unit"
        :model-value="made.unit ?? 'seconds'"
        :options="[...UNITS]"
        @update:model-value="change({ what: { ...made, unit: $event } })"
      />
    </div>
    <NumberField
      v-if="recorded"
      label="Attack, seconds into the file"
      :min="0"
      :max="recorded.duration"
      step="any"
      :digits="4"
      :value="recorded.attack ?? 0"
      @change="change({ what: { ...recorded, attack: $event } })"
    />
    <ChoiceRow
      v-if="!made"
      class="grid-cols-2"
      label="What lands"
      :value="sound.lands ?? 'attack'"
      :options="LANDS"
      @change="change({ lands: $event })"
    />
    <CheckRow :checked="!!sound.duck" @change="change({ ducks: $event })">Duck the song under it</CheckRow>
    <NumberSlider
      v-if="sound.duck"
      label="Down by"
      unit="dB"
      :min="0.5"
      :max="30"
      :step="0.5"
      :value="sound.duck.by ?? 6"
      @change="duck({ by: $event })"
    />
    <details>
      <summary class="cursor-pointer text-[12px] leading-6 text-muted">Fades, strength, timing</summary>
      <div class="mt-1 grid grid-cols-2 items-end gap-x-2 gap-y-1">
        <NumberField
          label="Fade in, s"
          :min="0"
          step="any"
          :digits="2"
          :value="sound.fade_in ?? 0"
          @change="change({ fade_in: $event })"
        />
        <NumberField
          label="Fade out, s"
          :min="0"
          step="any"
          :digits="2"
          :value="sound.fade_out ?? 0"
          @change="change({ fade_out: $event })"
        />
        <template v-if="sound.duck">
          <NumberField
            v-for="{ name, label } in DUCKS"
            :key="name"
            :label="label"
            :min="0"
            step="any"
            :digits="2"
            :value="sound.duck[name] ?? 0"
            @change="duck({ [name]: $event })"
          />
        </template>
        <NumberField
          label="By strength, %"
          title="How far it follows the strength of its cue"
          :min="0"
          :max="100"
          :value="100 * (sound.by_strength ?? 0)"
          @change="change({ by_strength: Math.max(0, Math.min(1, $event / 100)) })"
        />
      </div>
      <ChoiceRow
        class="mt-1 grid-cols-2"
        label="Exactly on"
        :value="sound.exact ?? 'cue'"
        :options="EXACT"
        @change="change({ exact: $event })"
      />
      <button v-if="made" class="btn mt-1 w-full justify-center" @click="again">Draw again</button>
    </details>
  </div>
</template>
