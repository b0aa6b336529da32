<script setup lang="ts">
/** Beside the sheet: what needs a look, filling slots, and what can be done with the chosen clips and the cut. */
import { Table2 } from '@lucide/vue'
import { computed, ref } from 'vue'
import { api, take, type Command, type Length, type CueKind } from '@/api/client'
import LengthField from '@/components/controls/LengthField.vue'
import NumberField from '@/components/controls/NumberField.vue'
import PickList from '@/components/controls/PickList.vue'
import { useClipName } from '@/composables/useClipName'
import { nearestCue } from '@/lib/cues'
import { useEdit } from '@/stores/edit'
import { useMontage } from '@/stores/montage'
import { useNotices } from '@/stores/notices'
import { useView } from '@/stores/view'
import ClipTable from './ClipTable.vue'

const edit = useEdit()
const view = useView()
const montage = useMontage()
const notices = useNotices()
const nameOf = useClipName()
const table = ref(false)

const PLAIN = { downbeat: 'every downbeat', beat: 'every beat', kick: 'every kick', snare: 'every snare' }
type Plain = keyof typeof PLAIN
const HOWS = {
  cut: 'the moment lands on the cut',
  inside: 'the moment lands inside',
  begin: 'begins with the shot',
  end: 'ends with the shot',
  stretch: 'the whole shot fits',
}
const ORDERS = { given: 'shelf order', weight: 'by weight', random: 'by chance' }
const on = ref('downbeat')
const how = ref<keyof typeof HOWS>('cut')
const order = ref<keyof typeof ORDERS>('given')
const seed = ref(1)
const from = ref(0)
const to = ref(0)
const named = <T extends Record<string, string>>(texts: T) =>
  Object.entries(texts).map(([value, text]) => ({ value: value as keyof T & string, text }))
const choices = computed(() => [
  ...named(PLAIN).filter(({ value }) => edit.cues.some((cue) => cue.kind === value)),
  ...(edit.song?.selections ?? []).map((each) => ({ value: each.id, text: each.name })),
])
const last = computed(() => to.value || edit.end)

async function cuesOf(begin: number, end: number): Promise<string[]> {
  const inside = edit.cues.filter((cue) => cue.at >= begin && cue.at <= end)
  const selection = edit.song?.selections?.find((each) => each.id === on.value)
  if (!selection || !edit.state) {
    // A downbeat is a beat too.
    const kinds: CueKind[] = on.value === 'beat' ? ['beat', 'downbeat'] : [on.value as Plain]
    return inside.filter((cue) => kinds.includes(cue.kind)).map((cue) => cue.id)
  }
  const asked = api.POST('/api/edits/{id}/chosen', {
    params: { path: { id: edit.state.id } },
    body: selection,
  })
  const found = new Set((await notices.guard(take(asked)))?.cues ?? [])
  return inside.filter((cue) => found.has(cue.id)).map((cue) => cue.id)
}
const slots = computed(() => {
  const kinds: string[] = on.value === 'beat' ? ['beat', 'downbeat'] : [on.value]
  const at = edit.cues
    .filter((cue) => kinds.includes(cue.kind) && cue.at >= from.value && cue.at <= last.value)
    .map((cue) => cue.at)
  if (at.length < 2) return ''
  const mean = (at.at(-1)! - at[0]!) / (at.length - 1)
  const tempo = edit.music?.tempo
  const beats = tempo ? `${+((mean * tempo) / 60).toFixed(1)} beats, ` : ''
  return `${at.length - 1} slots of ${beats}${Math.round(mean * view.outputRate)} frames, ${mean.toFixed(2)} s`
})

async function fill(): Promise<void> {
  const cues = await cuesOf(from.value, last.value)
  const shots = edit.takes.flatMap((each) =>
    each.selects?.length
      ? each.selects.map((select) => ({ take: each.id, select: select.id }))
      : [{ take: each.id }],
  )
  await edit.run({ do: 'fill-slots', cues, shots, how: how.value, order: order.value, seed: seed.value })
}

/** The clips that something is done to: those chosen together, else the one at hand. */
const mine = computed(() => (montage.chosen.length ? montage.chosen : view.clip ? [view.clip.id] : []))
const run = ref<Length>({ count: 20, unit: 'frames' })
const speed = ref(3)
/** The cuts that a command works on: those between chosen clips, else the one at hand. */
const cuts = computed(() => {
  const between = montage.cuts.filter(
    (cut) => montage.chosen.includes(cut.before) && montage.chosen.includes(cut.after),
  )
  return between.length ? between : montage.cut ? [montage.cut] : []
})
const through = (side: 'both' | 'out') =>
  edit.run({
    do: 'run-through',
    cuts: cuts.value.map((cut) => [cut.before, cut.after] as [string, string]),
    length: run.value,
    speed: speed.value,
    side,
  })
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
const jump = () => onCues((clip, cues) => ({ do: 'jump-cuts', clip, cues, leave: leave.value, more: 0 }))
const alternate = () =>
  onCues((clip, cues) => ({ do: 'alternate', clip, cues, ratio: ratio.value, early: 0, first: 'slow' }))
const split = () => view.clip && edit.run({ do: 'split-clip', clip: view.clip.id, n: view.frame, cues: [] })
const join = () => {
  const cut = montage.cut
  if (cut) void edit.run({ do: 'join-clips', clip: cut.before, other: cut.after })
}
const cueHere = computed(() => view.selectedCues[0] ?? nearestCue(edit.cues, view.playhead)?.id)
const repeat = () =>
  cueHere.value && edit.run({ do: 'repeat-section', clips: mine.value, cue: cueHere.value })
async function remove(): Promise<void> {
  for (const clip of mine.value) if (!(await edit.run({ do: 'remove-clip', clip }))) return
}
</script>

<template>
  <section class="flex flex-col gap-3" aria-label="Montage">
    <div class="flex items-center justify-between gap-2">
      <h2 class="text-[15px] font-semibold">
        {{ edit.clips.length }} {{ edit.clips.length === 1 ? 'clip' : 'clips' }},
        {{ montage.cuts.length }} cuts
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
        <button class="btn justify-center" @click="split">Split here</button>
        <button class="btn justify-center" :disabled="!montage.cut" @click="join">Join at the cut</button>
        <button class="btn justify-center" @click="repeat">Repeat here</button>
        <button
          class="btn justify-center"
          :disabled="mine.length < 2"
          @click="edit.run({ do: 'reverse-order', clips: mine })"
        >
          Reverse order
        </button>
        <button class="btn justify-center" @click="remove">Remove</button>
        <button class="btn justify-center" @click="edit.run({ do: 'close-gaps' })">Close gaps</button>
      </div>
      <p class="text-muted">Shift and click chooses several; drop one on another to swap them.</p>
    </div>

    <details v-if="cuts.length" open>
      <summary class="heading cursor-pointer">
        {{ cuts.length > 1 ? `${cuts.length} cuts` : 'The cut' }}: run through
      </summary>
      <div class="mt-1 grid grid-cols-2 gap-x-2 gap-y-1">
        <LengthField
          class="col-span-2"
          label="For"
          :typed="run"
          :units="['frames', 'seconds', 'beats']"
          @change="run = $event"
        />
        <NumberField
          class="col-span-2"
          label="Speed, %"
          :min="1"
          :value="speed * 100"
          @change="speed = $event / 100"
        />
        <button class="btn justify-center" @click="through('out')">Run into it</button>
        <button class="btn justify-center" @click="through('both')">Run through</button>
      </div>
    </details>

    <details v-if="view.clip">
      <summary class="heading cursor-pointer">On the cues inside it</summary>
      <div class="mt-1 grid grid-cols-2 gap-x-2 gap-y-1">
        <PickList v-model="on" class="col-span-2" label="Cues" :options="choices" />
        <NumberField label="Leave out" :min="1" :value="leave" @change="leave = Math.round($event)" />
        <NumberField label="Fast ÷ slow" :min="0.1" :digits="1" :value="ratio" @change="ratio = $event" />
        <button class="btn justify-center" @click="jump">Jump cuts</button>
        <button class="btn justify-center" @click="alternate">Alternate</button>
      </div>
    </details>

    <details :open="!edit.clips.length">
      <summary class="heading cursor-pointer">Fill slots</summary>
      <div class="mt-1 flex flex-col gap-2">
        <PickList v-model="on" label="Slots between" :options="choices" />
        <div class="grid grid-cols-2 gap-2">
          <NumberField label="From, s" :min="0" :digits="1" :value="from" @change="from = $event" />
          <NumberField label="To, s" :min="0" :digits="1" :value="last" @change="to = $event" />
        </div>
        <p v-if="slots" class="num text-muted">{{ slots }}</p>
        <PickList v-model="how" label="In each" :options="named(HOWS)" />
        <PickList v-model="order" label="Shots" :options="named(ORDERS)" />
        <NumberField
          v-if="order === 'random'"
          label="Chance"
          :min="0"
          :value="seed"
          @change="seed = Math.round($event)"
        />
        <button
          class="btn btn-main justify-center"
          :disabled="!edit.takes.length || !edit.song"
          @click="fill"
        >
          Fill from the shelf
        </button>
      </div>
    </details>

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
        </li>
      </ul>
    </div>
    <ClipTable :open="table" @close="table = false" />
  </section>
</template>
