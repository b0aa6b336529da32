<script setup lang="ts">
/** Beside the sheet: what needs a look, filling slots, and what can be done with the chosen clips and the cut. */
import { Table2 } from '@lucide/vue'
import { computed, ref } from 'vue'
import type { Command, Length } from '@/api/client'
import LengthField from '@/components/controls/LengthField.vue'
import NumberField from '@/components/controls/NumberField.vue'
import { counted } from '@/lib/format'
import { useClipName } from '@/composables/useClipName'
import { useEdit } from '@/stores/edit'
import { useMontage } from '@/stores/montage'
import { useView } from '@/stores/view'
import BeatWork from './BeatWork.vue'
import ClipTable from './ClipTable.vue'
import CutWork from './CutWork.vue'
import FillSlots from './FillSlots.vue'
import RangeWork from './RangeWork.vue'
import { kindName } from '@/lib/terms'

const edit = useEdit()
const view = useView()
const montage = useMontage()
const nameOf = useClipName()
const table = ref(false)
const filling = ref(!edit.clips.length)

const mine = computed(() => montage.mine)
/** Its clips become one take, which can be bent like any other and opened again. */
function bundle(): void {
  const shots = counted(mine.value.length, 'shot')
  void edit.bundle({ clips: mine.value, title: `${edit.edit?.title ?? ''}, ${shots}` })
}
const recapFor = ref<Length>({ count: 4, unit: 'beats' })
const recap = () =>
  montage.cueHere &&
  edit.run({ do: 'recap', take: view.takeId!, cue: montage.cueHere, length: recapFor.value })
const isBlended = (clip: string) =>
  (edit.clipById.get(clip)?.motion ?? edit.edit?.motion)?.between === 'blended'
/** The clips that stutter and are not blended yet: a frame that is held before a hit stays held. */
const stuttering = computed(() => {
  const all = montage.troubles.flatMap((each) => (each.kind === 'stutter' && each.clip ? [each.clip] : []))
  return [...new Set(all)].filter((clip) => !isBlended(clip))
})
const blend = (clips: string[]): Command => ({ do: 'set-motion', clips, between: 'blended' })
/** What smooths a clip that stutters: pictures blended into one another, or less of a bend. */
function steadied(clip: string): { label: string; command: Command }[] {
  const bent = edit.clipById.get(clip)?.spans.some((span) => span.shape !== 'steady')
  const less: Command = { do: 'strengthen', clip, repeats: 0 }
  return [
    ...(isBlended(clip) ? [] : [{ label: 'Blend it', command: blend([clip]) }]),
    ...(bent ? [{ label: 'As smooth as it can be', command: less }] : []),
  ]
}
type Trouble = (typeof montage.troubles)[number]
/** What mends a trouble with one click, as on the clip desk. */
function mends({ kind, clip, n }: Trouble): { label: string; command: Command }[] {
  if (kind === 'gap') return [{ label: 'Close gaps', command: { do: 'close-gaps' } }]
  if (!clip) return []
  if (kind === 'hidden') return [{ label: 'Remove it', command: { do: 'remove-clip', clip } }]
  if (kind === 'stutter') return steadied(clip)
  const pins = edit.derivedById.get(clip)?.pins
  const loose = edit.derived?.loose.find(
    (tie) => tie.clip === clip && pins?.find((pin) => pin.id === tie.pin)?.n === n,
  )
  const cue = edit.cueById.get(loose?.proposed ?? '')
  if (kind !== 'loose' || !loose || !cue) return []
  const tie: Command = { do: 'change-tie', clip, pin: loose.pin, cue: cue.id }
  const each = { label: `Tie to the ${kindName(cue.kind)} at ${cue.at.toFixed(2)} s`, command: tie }
  const all: Command = { do: 'tie-loose' }
  return edit.derived!.loose.length > 1 ? [each, { label: 'Tie all that are loose', command: all }] : [each]
}
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

    <div>
      <h3 class="heading">Needs a look: {{ montage.troubles.length || 'nothing' }}</h3>
      <button
        v-if="stuttering.length > 1"
        class="btn mt-1 w-full justify-center"
        @click="edit.run(blend(stuttering))"
      >
        Blend the {{ stuttering.length }} clips that stutter
      </button>
      <ul class="mt-1 flex max-h-56 flex-col overflow-y-auto" aria-label="Needs a look">
        <li v-for="each in montage.troubles" :key="`${each.kind} ${each.n} ${each.clip}`">
          <button
            class="w-full rounded px-1 py-0.5 text-left hover:bg-raised"
            @click="montage.seekCut(each.n)"
          >
            <span class="font-semibold text-bad">{{ each.kind }}</span>
            <span class="num float-right text-[12px] text-muted"
              >{{ edit.clock.time(each.n).toFixed(2) }} s</span
            >
            <span class="block truncate text-[12px] text-muted"
              >{{ each.clip ? `${nameOf(each.clip)}: ` : '' }}{{ each.what }}</span
            >
          </button>
          <button
            v-for="mend in mends(each)"
            :key="mend.label"
            class="btn mb-1 ml-1 min-h-6! px-2! py-0!"
            @click="edit.run(mend.command)"
          >
            {{ mend.label }}
          </button>
        </li>
      </ul>
    </div>
    <ClipTable :open="table" @close="table = false" />
  </section>
</template>
