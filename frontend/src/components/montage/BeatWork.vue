<script setup lang="ts">
/** What can be repeated on cues inside the clip at hand. */
import { ref } from 'vue'
import type { Clip, Command } from '@/api/client'
import NumberField from '@/components/controls/NumberField.vue'
import PickList from '@/components/controls/PickList.vue'
import PassList from '@/components/details/PassList.vue'
import { useCueChoice } from '@/composables/useCueChoice'
import { useEdit } from '@/stores/edit'
import { useNotices } from '@/stores/notices'

const props = defineProps<{ clip: Clip }>()
const edit = useEdit()
const notices = useNotices()
const { on, choices, kept, cuesOf } = useCueChoice()
const leave = ref(6)
const ratio = ref(4)
/** The chosen kind of cues where the clip at hand is seen. */
async function inside(): Promise<string[]> {
  const clip = edit.derivedById.get(props.clip.id)
  const ids = new Set(await cuesOf(0, edit.end))
  const end = (clip?.first ?? 0) + (clip?.source.length ?? 0)
  const within = (n: number) => n > (clip?.first ?? 0) && n < end
  return edit.cues
    .filter((cue) => ids.has(cue.id) && within(edit.cueFrames.get(cue.id)!))
    .map((cue) => cue.id)
}
const more = ref(0)
const early = ref(0)

async function onCues(make: (cues: string[]) => Command): Promise<void> {
  const cues = await inside()
  if (cues.length) await edit.run(make(cues))
  else notices.news('No such cue lies inside the clip.')
}
/** What is repeated on a kept selection goes on following that; else it keeps these cues. */
const repeat = (make: (on: { cues?: string[]; selection?: string }) => Command) =>
  kept.value ? edit.run(make({ selection: kept.value.id })) : onCues((cues) => make({ cues }))

const jump = () =>
  repeat((on) => ({ do: 'jump-cuts', clip: props.clip.id, ...on, leave: leave.value, more: more.value }))
const alternate = () =>
  repeat((on) => {
    const values = { ratio: ratio.value, early: early.value, first: 'slow' as const }
    return { do: 'alternate', clip: props.clip.id, ...on, ...values }
  })
const bend = () => repeat((on) => ({ do: 'bend-between', clip: props.clip.id, ...on }))
const splitAll = () => onCues((cues) => ({ do: 'split-clip', clip: props.clip.id, cues }))
</script>

<template>
  <details>
    <summary class="heading cursor-pointer">On beats inside this clip</summary>
    <PassList class="mt-1 mb-2" :clip="clip" />
    <div class="mt-1 grid grid-cols-2 gap-x-2 gap-y-1">
      <PickList v-model="on" class="col-span-2" label="Cues" :options="choices" />
      <NumberField
        label="Skip"
        title="Source frames at each cue; below 0 the picture goes back"
        :value="leave"
        @change="leave = Math.round($event)"
      />
      <NumberField label="Increase per cue" :value="more" @change="more = Math.round($event)" />
      <button class="btn col-span-2 justify-center" @click="jump">Jump cuts</button>
      <NumberField
        label="Speed ratio"
        title="How much faster the fast stretches run than the slow ones"
        :min="0.1"
        :digits="1"
        :value="ratio"
        @change="ratio = $event"
      />
      <NumberField
        label="Lead-in, frames"
        :min="0"
        :value="early"
        @change="early = Math.max(0, Math.round($event))"
      />
      <button class="btn col-span-2 justify-center" @click="alternate">Alternate slow and fast</button>
      <button
        class="btn col-span-2 justify-center"
        title="Half speed and double, in turn, between its moments"
        @click="edit.run({ do: 'alternate-moments', clip: clip.id })"
      >
        Alternate between its moments
      </button>
      <button
        class="btn col-span-2 justify-center"
        title="Slow between cues, quick on them; what each cue shows stays"
        @click="bend"
      >
        Bend from cue to cue
      </button>
      <button class="btn col-span-2 justify-center" @click="splitAll">Split on each</button>
    </div>
  </details>
</template>
