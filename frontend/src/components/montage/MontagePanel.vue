<script setup lang="ts">
/** Beside the sheet: what needs a look, filling slots, and what can be done with the chosen clips and the cut. */
import { Table2 } from '@lucide/vue'
import { computed, ref } from 'vue'
import type { Command, Length } from '@/api/client'
import LengthField from '@/components/controls/LengthField.vue'
import NumberField from '@/components/controls/NumberField.vue'
import PickList from '@/components/controls/PickList.vue'
import { counted } from '@/lib/format'
import { useCueChoice } from '@/composables/useCueChoice'
import { useClipName } from '@/composables/useClipName'
import { useEdit } from '@/stores/edit'
import { useMontage } from '@/stores/montage'
import { useNotices } from '@/stores/notices'
import { useView } from '@/stores/view'
import ClipTable from './ClipTable.vue'
import CutWork from './CutWork.vue'
import FillSlots from './FillSlots.vue'
import RangeWork from './RangeWork.vue'
import { kindName } from '@/lib/terms'

const edit = useEdit()
const view = useView()
const montage = useMontage()
const notices = useNotices()
const nameOf = useClipName()
const table = ref(false)
const filling = ref(!edit.clips.length)

const { on, choices, cuesOf } = useCueChoice()
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
const leave = ref(6)
const ratio = ref(4)
/** The chosen kind of cues where the clip at hand is seen. */
async function inside(): Promise<string[]> {
  const clip = edit.derivedById.get(view.clip?.id ?? '')
  const ids = new Set(await cuesOf(0, edit.end))
  const end = (clip?.first ?? 0) + (clip?.source.length ?? 0)
  const within = (n: number) => n > (clip?.first ?? 0) && n < end
  return edit.cues
    .filter((cue) => ids.has(cue.id) && within(edit.cueFrames.get(cue.id)!))
    .map((cue) => cue.id)
}
async function onCues(make: (clip: string, cues: string[]) => Command): Promise<void> {
  const cues = await inside()
  if (view.clip && cues.length) await edit.run(make(view.clip.id, cues))
  else notices.news('No such cue lies inside the clip.')
}
type Trouble = (typeof montage.troubles)[number]
/** What mends a trouble with one click, as on the clip desk. */
function mends({ kind, clip, n }: Trouble): { label: string; command: Command }[] {
  if (kind === 'gap') return [{ label: 'Close gaps', command: { do: 'close-gaps' } }]
  if (!clip) return []
  if (kind === 'hidden') return [{ label: 'Remove it', command: { do: 'remove-clip', clip } }]
  if (kind === 'stutter' && edit.clipById.get(clip)?.spans.some((span) => span.shape !== 'steady'))
    return [{ label: 'As smooth as it can be', command: { do: 'strengthen', clip, repeats: 0 } }]
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
const more = ref(0)
const early = ref(0)
const jump = () =>
  onCues((clip, cues) => ({ do: 'jump-cuts', clip, cues, leave: leave.value, more: more.value }))
const splitAll = () => onCues((clip, cues) => ({ do: 'split-clip', clip, cues }))
const by = (what: 'slip-clip' | 'slide-clip', frames: number) =>
  view.clip && frames && edit.run({ do: what, clip: view.clip.id, by: frames })
const alternate = () =>
  onCues((clip, cues) => ({
    do: 'alternate',
    clip,
    cues,
    ratio: ratio.value,
    early: early.value,
    first: 'slow',
  }))
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

    <details v-if="view.clip">
      <summary class="heading cursor-pointer">On beats inside this clip</summary>
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
          @click="edit.run({ do: 'alternate-moments', clip: view.clip.id })"
        >
          Alternate between its moments
        </button>
        <button class="btn col-span-2 justify-center" @click="splitAll">Split on each</button>
      </div>
    </details>

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
      <ul class="mt-1 flex max-h-56 flex-col overflow-y-auto" aria-label="Needs a look">
        <li v-for="each in montage.troubles" :key="`${each.kind} ${each.n} ${each.clip}`">
          <button
            class="w-full rounded px-1 py-0.5 text-left hover:bg-raised"
            @click="montage.seekCut(each.n)"
          >
            <span class="font-semibold text-bad">{{ each.kind }}</span>
            <span class="num float-right text-[12px] text-muted"
              >{{ (each.n / view.outputRate).toFixed(2) }} s</span
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
