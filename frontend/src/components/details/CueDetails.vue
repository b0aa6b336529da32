<script setup lang="ts">
import { computed } from 'vue'
import type { CueKind } from '@/api/client'
import PickList from '@/components/controls/PickList.vue'
import { CUE_KINDS, option } from '@/lib/cues'
import { useEdit, type PlacedCue } from '@/stores/edit'
import { useView } from '@/stores/view'

const props = defineProps<{ cue: PlacedCue }>()
const edit = useEdit()
const view = useView()
const kinds = CUE_KINDS.map(option)
const kind = computed<CueKind>({
  get: () => props.cue.kind,
  set: (value) => void edit.run({ do: 'change-cue', cue: props.cue.id, kind: value }),
})
const frame = computed(() => edit.state?.cue_frames[props.cue.id])
const uses = computed(() => edit.derived?.landings.filter((landing) => landing.cue === props.cue.id) ?? [])
const move = (at: number) =>
  void edit.run({ do: 'change-cue', cue: props.cue.id, time: at - (edit.song?.start ?? 0) })

function typed(event: Event): void {
  const time = Number((event.target as HTMLInputElement).value)
  if (Number.isFinite(time)) move(time)
}
</script>

<template>
  <section class="flex flex-col gap-3" aria-label="Cue">
    <div>
      <h2 class="text-[15px] font-semibold capitalize">{{ cue.kind }} cue</h2>
      <p class="text-muted">{{ cue.made === 'auto' ? 'Found by the automatic pass' : 'Set by hand' }}</p>
    </div>
    <PickList v-model="kind" label="Kind" :options="kinds" />
    <label class="block">
      <span class="text-muted">Time, seconds</span>
      <input
        class="field num"
        type="number"
        step="0.001"
        min="0"
        :value="cue.at.toFixed(4)"
        @change="typed"
      />
    </label>
    <div class="grid grid-cols-4 gap-1" role="group" aria-label="Nudge">
      <button class="btn justify-center px-1!" @click="move(cue.at - 1 / view.outputRate)">−1 fr</button>
      <button class="btn justify-center px-1!" @click="move(cue.at - 0.001)">−1 ms</button>
      <button class="btn justify-center px-1!" @click="move(cue.at + 0.001)">+1 ms</button>
      <button class="btn justify-center px-1!" @click="move(cue.at + 1 / view.outputRate)">+1 fr</button>
    </div>
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
    <button class="btn justify-center" @click="edit.run({ do: 'remove-cues', cues: [cue.id] })">
      Delete the cue
    </button>
  </section>
</template>
