<script setup lang="ts">
/** Beside the sheet: what needs a look, filling slots, and what can be done with the chosen clips and the cut. */
import { Table2 } from '@lucide/vue'
import { computed, ref } from 'vue'
import type { Length } from '@/api/client'
import LengthField from '@/components/controls/LengthField.vue'
import NumberField from '@/components/controls/NumberField.vue'
import { counted } from '@/lib/format'
import { useClipName } from '@/composables/useClipName'
import { useEdit } from '@/stores/edit'
import { useMontage } from '@/stores/montage'
import { useView } from '@/stores/view'
import AccentWork from '@/components/details/AccentWork.vue'
import TitleWork from '@/components/details/TitleWork.vue'
import PulseWork from '@/components/details/PulseWork.vue'
import BeatWork from './BeatWork.vue'
import ClipTable from './ClipTable.vue'
import CutWork from './CutWork.vue'
import FillSlots from './FillSlots.vue'
import NeedsLook from './NeedsLook.vue'
import RangeWork from './RangeWork.vue'

const edit = useEdit()
const view = useView()
const montage = useMontage()
const nameOf = useClipName()
const table = ref(false)
const filling = ref(!edit.clips.length)

const mine = computed(() => montage.mine)
const mineClips = computed(() => edit.clips.filter((clip) => mine.value.includes(clip.id)))
/** Where accents are added from here: the cuts at hand, else the first frames of the clips at hand. */
const accentAt = computed(() => {
  const cuts = montage.myCuts.map(({ after }) => after)
  const clips = cuts.length ? cuts : mine.value
  return clips.length
    ? {
        at: { to: 'cuts' as const, clips },
        place: clips.length > 1 ? `these ${clips.length} cuts` : 'this cut',
      }
    : null
})
/** The hits of the clips at hand. */
const ties = computed(() =>
  mineClips.value.flatMap((clip) =>
    clip.pins.flatMap(({ id, cue, moment }) => (cue && moment ? [{ clip: clip.id, pin: id }] : [])),
  ),
)
/** Its clips become one take, which can be bent like any other and opened again. */
function bundle(): void {
  const shots = counted(mine.value.length, 'shot')
  void edit.bundle({ clips: mine.value, title: `${edit.edit?.title ?? ''}, ${shots}` })
}
const recapFor = ref<Length>({ count: 4, unit: 'beats' })
const recap = () =>
  montage.cueHere &&
  edit.run({ do: 'recap', take: view.takeId!, cue: montage.cueHere, length: recapFor.value })
const by = (what: 'slip-clip' | 'slide-clip', frames: number) =>
  view.clip && frames && edit.run({ do: what, clip: view.clip.id, by: frames })
</script>

<template>
  <section class="flex flex-col gap-3" aria-label="Montage">
    <div class="flex items-center justify-between gap-2">
      <h2 class="text-[15px] font-semibold">
        {{ counted(edit.clips.length, 'clip') }}, {{ counted(montage.cuts.length, 'cut') }}
      </h2>
      <button class="btn" :disabled="!edit.clips.length" @click="table = true">
        <Table2 :size="14" />Table
      </button>
    </div>

    <div v-if="mine.length" class="flex flex-col gap-1.5">
      <h3 class="heading truncate">
        {{ mine.length > 1 ? `${mine.length} clips chosen` : nameOf(mine[0]!) }}
      </h3>
      <div class="grid grid-cols-2 gap-1">
        <button class="btn justify-center" title="X" @click="montage.split">Split here</button>
        <button class="btn justify-center" :disabled="!montage.cut" title="J" @click="montage.join">
          Join at the cut
        </button>
        <button class="btn justify-center" title="Ctrl V" @click="montage.repeat(mine)">Repeat here</button>
        <button class="btn justify-center" @click="montage.repeat(mine, true)">Move here</button>
        <button
          class="btn justify-center"
          :disabled="mine.length < 2"
          @click="edit.run({ do: 'reverse-order', clips: mine })"
        >
          Reverse order
        </button>
        <button class="btn justify-center" @click="bundle">Bundle</button>
        <button class="btn justify-center" title="Delete" @click="montage.remove(mine)">Remove</button>
        <button class="btn justify-center" @click="edit.run({ do: 'close-gaps' })">Close gaps</button>
      </div>
      <div
        v-if="mine.length === 1"
        :key="`${mine[0]} ${edit.state?.revision}`"
        class="grid grid-cols-2 gap-2"
      >
        <NumberField
          label="Slip by"
          title="Source frames: other pictures in the same place"
          :value="0"
          @change="by('slip-clip', Math.round($event))"
        />
        <NumberField
          label="Slide by"
          title="Output frames: its neighbours grow and shrink to meet it"
          :value="0"
          @change="by('slide-clip', Math.round($event))"
        />
      </div>
      <p class="text-muted">
        Shift and click chooses up to a clip, Ctrl and click one more. Drop one on another to swap them.
      </p>
    </div>

    <CutWork />

    <PulseWork v-if="mineClips.length" heading :clips="mineClips" />
    <details v-if="accentAt">
      <summary class="heading cursor-pointer">Accents</summary>
      <AccentWork class="mt-1" :at="accentAt.at" :place="accentAt.place" :ties="ties" />
    </details>
    <BeatWork v-if="view.clip" :clip="view.clip" />

    <details v-if="view.take">
      <summary class="heading cursor-pointer">Recap</summary>
      <div class="mt-1 flex flex-col gap-1">
        <LengthField
          label="Recap length"
          :typed="recapFor"
          :units="['frames', 'seconds', 'beats']"
          @change="recapFor = $event"
        />
        <button class="btn justify-center" :disabled="!montage.cueHere" @click="recap">
          Up to the cue here
        </button>
      </div>
    </details>

    <details :open="!edit.clips.length" @toggle="filling = ($event.target as HTMLDetailsElement).open">
      <summary class="heading cursor-pointer">Fill slots</summary>
      <FillSlots v-if="filling" class="mt-1" />
    </details>

    <RangeWork v-if="edit.clips.length" />
    <TitleWork v-if="edit.clips.length" />

    <NeedsLook />
    <ClipTable :open="table" @close="table = false" />
  </section>
</template>
