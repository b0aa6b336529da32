<script setup lang="ts">
/** The edit as a whole: what to do next, its settings, all landings. */
import { CircleCheck } from '@lucide/vue'
import { computed } from 'vue'
import PickList from '@/components/controls/PickList.vue'
import { rate } from '@/lib/format'
import { RATES } from '@/lib/terms'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'
import AccentList from './AccentList.vue'
import MotionWork from './MotionWork.vue'
import NoteList from './NoteList.vue'
import LandingRows from './LandingRows.vue'
import SoundList from './SoundList.vue'
import TitleWork from './TitleWork.vue'
import SongShift from './SongShift.vue'
import TieAgain from './TieAgain.vue'

const SIZES = ['1280×720', '1920×1080', '1080×1920', '1080×1080', '3840×2160']
const RULES = { nearest: 'nearest frame', before: 'at or before the cue', after: 'at or after the cue' }
type Rule = keyof typeof RULES

const edit = useEdit()
const view = useView()
const rates = computed(() =>
  [...new Set([...RATES, edit.edit?.rate ?? '60'])].map((value) => ({ value, text: rate(value) })),
)
const current = computed(() => `${edit.edit?.width}×${edit.edit?.height}`)
const sizes = computed(() => [...new Set([...SIZES, current.value])].map((value) => ({ value, text: value })))
const rules = (Object.keys(RULES) as Rule[]).map((value) => ({ value, text: RULES[value] }))

const chosenRate = computed({
  get: () => edit.edit?.rate ?? '60',
  set: (value) => void edit.run({ do: 'configure', rate: value }),
})
const chosenSize = computed({
  get: () => current.value,
  set: (value) => {
    const [width, height] = value.split('×').map(Number)
    void edit.run({ do: 'configure', width, height })
  },
})
const chosenRule = computed<Rule>({
  get: () => edit.edit?.landing ?? 'nearest',
  set: (value) => void edit.run({ do: 'configure', landing: value }),
})

const steps = computed(() => [
  { text: 'Pick the music: drop a song on the shelf', done: !!edit.song },
  { text: 'Set or correct the cues', done: edit.cues.length > 0 },
  { text: 'Drop a take and choose it', done: edit.takes.length > 0 },
  { text: 'Mark the first frame of the hit', done: edit.takes.some((take) => take.moments?.length) },
  { text: 'Pull its knob down to a cue', done: edit.clips.length > 0 },
])
</script>

<template>
  <section class="flex flex-col gap-3" aria-label="Edit">
    <template v-if="steps.some((step) => !step.done)">
      <h2 class="text-[15px] font-semibold">First steps</h2>
      <ol class="flex flex-col gap-1.5">
        <li
          v-for="(step, index) in steps"
          :key="step.text"
          class="flex gap-2"
          :class="step.done ? 'text-muted' : ''"
        >
          <CircleCheck v-if="step.done" :size="17" class="shrink-0 text-good" aria-label="done" />
          <span v-else class="num w-[17px] shrink-0 text-center font-semibold text-brass">{{
            index + 1
          }}</span>
          <span>{{ step.text }}</span>
        </li>
      </ol>
    </template>
    <template v-else-if="edit.landings.length">
      <h2 class="text-[15px] font-semibold">Landings</h2>
      <div class="-mt-2 flex max-h-64 flex-col gap-1 overflow-y-auto">
        <LandingRows v-for="clip in edit.derived?.clips ?? []" :key="clip.id" :clip="clip" />
      </div>
    </template>
    <SongShift v-if="edit.landings.length" />
    <template v-if="edit.derived?.loose.length">
      <h2 class="text-[15px] font-semibold text-bad">Loose ties</h2>
      <p class="-mt-2 text-muted">
        Their cues are gone; they stay on their frames. Tie each to the cue nearby:
      </p>
      <div
        v-for="loose in edit.derived.loose"
        :key="loose.clip + loose.pin"
        class="-mt-1 flex items-center gap-2"
      >
        <button
          class="min-w-0 flex-1 truncate rounded px-1 text-left hover:bg-raised"
          @click="view.goToPin(loose.clip, loose.pin)"
        >
          {{ loose.label }}
        </button>
        <TieAgain :loose="loose" />
      </div>
      <button
        v-if="edit.derived.loose.length > 1"
        class="btn justify-center"
        @click="edit.run({ do: 'tie-loose' })"
      >
        Tie all to these
      </button>
    </template>
    <AccentList />
    <SoundList />
    <TitleWork v-if="edit.clips.length" />
    <NoteList />
    <h2 class="heading">Settings</h2>
    <PickList v-model="chosenRate" label="Frame rate" :options="rates" />
    <PickList v-model="chosenSize" label="Picture size" :options="sizes" />
    <PickList v-model="chosenRule" label="A cue lands on the" :options="rules" />
    <MotionWork />
    <a class="btn justify-center" :href="`/api/edits/${edit.id}/document`" download>Save the edit document</a>
  </section>
</template>
