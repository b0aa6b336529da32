<script setup lang="ts">
/** Several cues at once: moved, renamed, merged or removed together. */
import { computed } from 'vue'
import type { CueKind } from '@/api/client'
import PickList from '@/components/controls/PickList.vue'
import { useCueMoves } from '@/composables/useCueMoves'
import { kindOption } from '@/lib/cues'
import { CUE_KINDS } from '@/lib/terms'
import type { PlacedCue } from '@/stores/edit'
import AccentWork from './AccentWork.vue'
import NudgeButtons from './NudgeButtons.vue'

const props = defineProps<{ cues: PlacedCue[] }>()
const moves = useCueMoves(() => 0)
const MIXED = 'several'
const kinds = [...CUE_KINDS.map(kindOption), { value: MIXED, text: 'several kinds' }]
const kind = computed({
  get: () => (new Set(props.cues.map((cue) => cue.kind)).size === 1 ? props.cues[0]!.kind : MIXED),
  set: (value: string) => value !== MIXED && moves.setKind(value as CueKind),
})
const span = computed(
  () => [props.cues[0]!.at, props.cues.at(-1)!.at].sort((a, b) => a - b) as [number, number],
)
</script>

<template>
  <section class="flex flex-col gap-3" aria-label="Cues">
    <div>
      <h2 class="text-[15px] font-semibold">{{ cues.length }} cues</h2>
      <p class="num text-muted">{{ span[0].toFixed(3) }} to {{ span[1].toFixed(3) }} s</p>
    </div>
    <PickList v-model="kind" label="Kind" :options="kinds" />
    <NudgeButtons @nudge="moves.nudge" />
    <AccentWork :at="{ to: 'cues', cues: cues.map(({ id }) => id) }" place="these cues" />
    <button class="btn justify-center" @click="moves.merge()">Merge doubles</button>
    <button class="btn justify-center" @click="moves.remove()">Delete the cues</button>
  </section>
</template>
