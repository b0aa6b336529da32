<script setup lang="ts">
/** What can be done to the clip at hand as a whole. */
import { computed, ref } from 'vue'
import type { Clip, Length } from '@/api/client'
import CheckRow from '@/components/controls/CheckRow.vue'
import LengthField from '@/components/controls/LengthField.vue'
import PickList from '@/components/controls/PickList.vue'
import MotionWork from './MotionWork.vue'
import { cueOptions } from '@/lib/cues'
import { counted, rate, percent } from '@/lib/format'
import { frameClock } from '@/lib/frameClock'
import { useEdit } from '@/stores/edit'
import { useMusic } from '@/stores/music'

const props = defineProps<{ clip: Clip }>()
const edit = useEdit()
const music = useMusic()
const derived = computed(() => edit.derivedById.get(props.clip.id))
const take = computed(() => edit.takes.find((other) => other.id === props.clip.take))
const last = computed(() => (derived.value ? derived.value.first + derived.value.source.length : 0))
const length = computed(() => derived.value?.source.length ?? 1)
const open = computed(() => props.clip.spans.some((shape) => shape.speed != null))
const close = ref(false)
const cues = computed(() => [
  { value: '', text: 'as it is' },
  ...cueOptions(edit.cues, edit.clock.time(last.value)),
])
const endsOn = computed({
  get: () => '',
  set: (cue) => cue && void edit.run({ do: 'end-clip', clip: props.clip.id, cue, close: close.value }),
})
const setLength = (length: Length) =>
  edit.run({ do: 'end-clip', clip: props.clip.id, length, close: close.value })

/** What the take's rate means in this edit, in words. */
const said = computed(() => {
  if (!take.value || !derived.value) return ''
  const { distinct, rate: native, held } = take.value
  const { floor, smoothness } = derived.value
  const has =
    distinct === native ? rate(native) : `${rate(native)}, ${Math.round(frameClock(distinct).rate)} distinct`
  const uneven =
    held && held > Math.ceil(frameClock(native).rate / frameClock(distinct).rate)
      ? `, each held up to ${held}`
      : ''
  const until = !floor
    ? 'no frame repeats, however slow it is'
    : floor < 1
      ? `smooth down to ${percent(floor)}`
      : `smooth from ${percent(floor)} on`
  const now = smoothness.repeats ? ` Now it repeats ${counted(smoothness.repeats, 'picture')}.` : ''
  return `${has}${uneven} in ${rate(edit.edit?.rate ?? '60')}: ${until}.${now}`
})
/** Cues inside the clip that a pin could be put on: those that are chosen, else the beats. */
const inside = computed(() => {
  const [from, to] = [edit.clock.time(derived.value?.first ?? 0), edit.clock.time(last.value)]
  return edit.cues.filter(
    (cue) =>
      cue.at > from &&
      cue.at < to &&
      (music.chosen ? music.chosen.has(cue.id) : ['beat', 'downbeat'].includes(cue.kind)),
  )
})
const bend = () =>
  edit.run({
    do: 'bend-between',
    clip: props.clip.id,
    cues: inside.value.map((cue) => cue.id),
  })
</script>

<template>
  <details class="mt-1">
    <summary class="cursor-pointer leading-6 text-muted">The whole clip</summary>
    <div class="mt-2 flex flex-col gap-2">
      <p class="text-muted">{{ said }}</p>
      <button
        v-if="take && take.rate !== edit.edit?.rate && edit.clips.length === 1"
        class="btn justify-center"
        @click="edit.run({ do: 'configure', rate: take.rate })"
      >
        Make the edit {{ rate(take.rate) }}, ties kept
      </button>
      <div class="grid grid-cols-2 gap-1">
        <button class="btn justify-center" @click="edit.run({ do: 'reverse-clip', clip: clip.id })">
          Reverse the clip
        </button>
        <button
          class="btn justify-center"
          :disabled="!open"
          :title="open ? 'Open spans show each source frame once' : 'Its pins say how fast every span runs'"
          @click="edit.run({ do: 'conform-clip', clip: clip.id })"
        >
          Each frame once
        </button>
        <button class="btn justify-center" @click="edit.run({ do: 'strengthen', clip: clip.id, repeats: 0 })">
          As smooth as it can be
        </button>
        <button
          class="btn justify-center"
          title="Slow between cues, quick on them; what each cue shows stays"
          :disabled="!inside.length"
          @click="bend"
        >
          Bend on {{ counted(inside.length, 'cue') }}
        </button>
      </div>
      <MotionWork :clip="clip" />
      <PickList v-model="endsOn" label="Ends on" :options="cues" />
      <LengthField
        label="Length"
        :frames="length"
        :units="['frames', 'seconds', 'beats', 'percent']"
        @change="setLength"
      />
      <CheckRow :checked="close" @change="close = $event">What follows untied closes up</CheckRow>
    </div>
  </details>
</template>
