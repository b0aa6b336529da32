<script setup lang="ts">
/** What can be done at the cut at hand, or at all cuts between chosen clips. */
import { computed, ref } from 'vue'
import type { Command, Length } from '@/api/client'
import ChoiceRow from '@/components/controls/ChoiceRow.vue'
import LengthField from '@/components/controls/LengthField.vue'
import NumberField from '@/components/controls/NumberField.vue'
import PickList from '@/components/controls/PickList.vue'
import RevealWork from '@/components/framing/RevealWork.vue'
import { useClipName } from '@/composables/useClipName'
import { useEdit } from '@/stores/edit'
import { useMontage } from '@/stores/montage'

const edit = useEdit()
const montage = useMontage()
const nameOf = useClipName()
const run = ref<Length>({ count: 20, unit: 'frames' })
const speed = ref(3)

const cuts = computed(() => montage.myCuts)
/** Which cut it is: the clip that it leads to, and when. */
const which = computed(() => {
  const [cut] = cuts.value
  return cut ? `Cut to ${nameOf(cut.after)} at ${edit.clock.time(cut.n).toFixed(2)} s` : ''
})
const through = (side: 'both' | 'out' | 'in') =>
  edit.run({
    do: 'run-through',
    cuts: cuts.value.map((cut) => [cut.before, cut.after] as [string, string]),
    length: run.value,
    speed: speed.value,
    side,
  })
/** For how many frames the clip after the cut comes in over the one before it. */
const overlap = computed(() => edit.clipById.get(cuts.value[0]?.after ?? '')?.overlap)
type Change = Omit<Extract<Command, { do: 'overlap-clips' }>, 'do' | 'clip'>
const overlapAll = (change: Change) =>
  void edit.runAll(cuts.value.map((cut) => ({ do: 'overlap-clips', clip: cut.after, ...change })))
type Kind = NonNullable<Change['kind']>
const KINDS: { value: Kind; text: string }[] = [
  { value: 'dissolve', text: 'Dissolve' },
  { value: 'wipe', text: 'Wipe' },
  { value: 'push', text: 'Push' },
  { value: 'iris', text: 'Iris' },
  { value: 'zoom', text: 'Zoom' },
  { value: 'spin', text: 'Spin' },
  { value: 'dip', text: 'Dip to black' },
  { value: 'reveal', text: 'Reveal' },
]
const WAYS = [
  { value: 'left', text: 'Left' },
  { value: 'right', text: 'Right' },
  { value: 'up', text: 'Up' },
  { value: 'down', text: 'Down' },
] as const
const kind = computed({
  get: () => overlap.value?.kind ?? 'dissolve',
  set: (kind) => overlapAll({ frames: overlap.value?.frames ?? 1, kind }),
})
/** Which ways it can go: turning, there are two. */
const ways = computed(() => (kind.value === 'spin' ? WAYS.slice(0, 2) : WAYS))
/** Cuts of which it is known how the picture moves: an overlap can go the same way. */
const moving = computed(() => cuts.value.filter(({ along }) => along))
const goAlong = () =>
  void edit.runAll(
    moving.value.map(({ after, along }) => ({
      do: 'overlap-clips',
      clip: after,
      frames: edit.clipById.get(after)?.overlap?.frames ?? overlap.value!.frames,
      kind: kind.value,
      way: along!,
    })),
  )
const goes = computed(() => overlap.value && ['wipe', 'push', 'spin'].includes(kind.value))
</script>

<template>
  <details v-if="cuts.length" open>
    <summary class="heading cursor-pointer">
      {{ cuts.length > 1 ? `${cuts.length} cuts` : which }}
    </summary>
    <div class="mt-1 grid grid-cols-2 gap-x-2 gap-y-1">
      <LengthField
        label="Run fast for"
        class="col-span-2"
        :typed="run"
        :units="['frames', 'seconds', 'beats']"
        @change="run = $event"
      />
      <NumberField
        label="Speed, %"
        class="col-span-2"
        :min="1"
        :value="speed * 100"
        @change="speed = $event / 100"
      />
      <button class="btn justify-center" @click="through('out')">Into it</button>
      <button class="btn justify-center" @click="through('both')">Run through</button>
      <NumberField
        label="Overlap, frames"
        class="col-span-2 mt-1"
        :min="0"
        :max="600"
        :value="overlap?.frames ?? 0"
        @change="overlapAll({ frames: Math.round($event) })"
      />
      <PickList v-if="overlap" v-model="kind" class="col-span-2" label="Overlap type" :options="KINDS" />
      <ChoiceRow
        v-if="overlap && goes"
        :class="['col-span-2', ways.length > 2 ? 'grid-cols-4' : 'grid-cols-2']"
        label="Direction"
        :value="overlap.way"
        :options="ways"
        @change="overlapAll({ frames: overlap.frames, way: $event })"
      />
      <button
        v-if="overlap && goes && kind !== 'spin'"
        class="btn col-span-2 justify-center"
        :disabled="!moving.length"
        :title="moving.length ? 'The way the picture moves at the cut' : 'No movement is known at the cut'"
        @click="goAlong"
      >
        Along the movement
      </button>
      <RevealWork
        v-if="overlap?.kind === 'reveal' && cuts.length === 1"
        class="col-span-2"
        :clip="edit.clipById.get(cuts[0]!.after)!"
        :before="cuts[0]!.before"
      />
      <NumberField
        label="Black, frames"
        class="col-span-2 mt-1"
        :min="1"
        :value="montage.dark"
        @change="montage.dark = Math.max(1, Math.round($event))"
      />
      <button class="btn justify-center" title="K" @click="montage.black('before')">Before it</button>
      <button class="btn justify-center" title="Shift K" @click="montage.black('after')">After it</button>
    </div>
  </details>
</template>
