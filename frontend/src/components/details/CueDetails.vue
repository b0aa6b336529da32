<script setup lang="ts">
import { computed } from 'vue'
import type { CueKind } from '@/api/client'
import NumberField from '@/components/controls/NumberField.vue'
import PickList from '@/components/controls/PickList.vue'
import { kindOption } from '@/lib/cues'
import { kindName, CUE_KINDS } from '@/lib/terms'
import { useEdit, type PlacedCue } from '@/stores/edit'
import AccentWork from './AccentWork.vue'
import NudgeButtons from './NudgeButtons.vue'

const props = defineProps<{ cue: PlacedCue }>()
const edit = useEdit()
const kinds = CUE_KINDS.map(kindOption)
const kind = computed<CueKind>({
  get: () => props.cue.kind,
  set: (value) => void edit.run({ do: 'change-cue', cue: props.cue.id, kind: value }),
})
const frame = computed(() => edit.cueFrames.get(props.cue.id))
const uses = computed(() => edit.landings.filter((landing) => landing.cue === props.cue.id))
const move = (at: number) =>
  void edit.run({ do: 'change-cue', cue: props.cue.id, time: at - (edit.song?.start ?? 0) })
</script>

<template>
  <section class="flex flex-col gap-3" aria-label="Cue">
    <div>
      <h2 class="text-[15px] font-semibold first-letter:uppercase">{{ kindName(cue.kind) }} cue</h2>
      <p class="text-muted">{{ cue.made === 'auto' ? 'Found by the automatic pass' : 'Set by hand' }}</p>
    </div>
    <PickList v-model="kind" label="Kind" :options="kinds" />
    <NumberField label="Time, seconds" :value="cue.at" :digits="4" :min="0" :step="0.001" @change="move" />
    <NudgeButtons @nudge="edit.run({ do: 'change-cues', cues: [cue.id], by: $event })" />
    <dl class="num grid grid-cols-[1fr_auto] gap-x-3">
      <dt class="text-muted">Output frame</dt>
      <dd>{{ frame }}</dd>
      <dt class="text-muted">Strength</dt>
      <dd>{{ (cue.strength ?? 1).toFixed(2) }}</dd>
    </dl>
    <p class="text-muted">
      <template v-if="uses.length">Lands here: {{ uses.map((use) => use.label).join(', ') }}.</template>
      <template v-else>Nothing lands here yet.</template>
    </p>
    <AccentWork :at="{ to: 'cues', cues: [cue.id] }" place="this cue" />
    <button class="btn justify-center" @click="edit.run({ do: 'remove-cues', cues: [cue.id] })">
      Delete the cue
    </button>
  </section>
</template>
