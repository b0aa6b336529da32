<script setup lang="ts">
/** What a pulse does: tried while it is dragged, kept when it is meant. One tooth can be changed alone. */
import { computed } from 'vue'
import type { DerivedClip } from '@/api/client'
import CheckRow from '@/components/controls/CheckRow.vue'
import NumberField from '@/components/controls/NumberField.vue'
import NumberSlider from '@/components/controls/NumberSlider.vue'
import PickList from '@/components/controls/PickList.vue'
import { useCueChoice } from '@/composables/useCueChoice'
import { counted } from '@/lib/format'
import { COURSES, PATTERNS, UNITS, type Pulse, type PulseValues } from '@/lib/pulses'
import { useEdit } from '@/stores/edit'
import { useMontage } from '@/stores/montage'
import { useNotices } from '@/stores/notices'
import { useView } from '@/stores/view'

const props = defineProps<{
  clip: string
  pulse: Pulse
  derived?: NonNullable<DerivedClip['pulses']>['pulses'][number]
}>()
const edit = useEdit()
const view = useView()
const montage = useMontage()
const notices = useNotices()

const { on, choices, onClip } = useCueChoice()
/** The cues that it works on now, and those that it could. */
const now = computed(() => {
  const { selection, cues } = props.pulse
  const kept = edit.song?.selections?.find((each) => each.id === selection)
  return kept ? kept.name : counted(cues?.length ?? 0, 'cue')
})
const others = computed(() => [{ value: '', text: now.value }, ...choices.value])
async function chooseCues(next: string): Promise<void> {
  if (!next) return
  on.value = next
  const where = await onClip(props.clip)
  if (where.selection || where.cues?.length)
    await edit.run({ do: 'change-pass', clip: props.clip, id: props.pulse.id, ...where })
  else notices.news('No such cue lies on the clip.')
}

/** The other clips that are chosen on the Montage desk. */
const also = computed(() => montage.chosen.filter((id) => id !== props.clip))
const copy = () => edit.run({ do: 'copy-pass', clip: props.clip, id: props.pulse.id, clips: also.value })

const set = (pulse: PulseValues) =>
  ({ do: 'change-pass', clip: props.clip, id: props.pulse.id, pulse }) as const
const change = (pulse: PulseValues) => void edit.run(set(pulse))
const attempt = (pulse: PulseValues) => void edit.dryRun(set(pulse))

const pattern = computed(() => props.pulse.pattern ?? 'step')
const hasAmount = computed(() => pattern.value !== 'again')
/** How far the slider goes: a hand's width; any amount can be typed. */
const most = computed(() => ({ frames: 60, seconds: 3, share: 1 })[props.pulse.unit ?? 'frames'])
const first = computed(() => props.pulse.amounts?.[0] ?? 0)
/** The same cycle of amounts, as large as its first one says. */
function amounts(value: number): PulseValues {
  const all = props.pulse.amounts ?? [6]
  const by = first.value ? value / first.value : 0
  return { amounts: all.map((each, i) => (i && first.value ? each * by : i ? each : value)) }
}
/** A cycle that goes there and back has a second amount to begin with. */
const choose = (next: NonNullable<PulseValues['pattern']>) =>
  change({
    pattern: next,
    amounts: next === 'to-and-fro' ? [first.value || 6, -(first.value || 6)] : [first.value || 6],
  })
const room = computed(() => {
  const { times, runs_out } = props.derived ?? {}
  if (!times || times >= 1000 || !hasAmount.value) return ''
  const at = edit.cues.find((cue) => cue.id === runs_out)
  const most = +(times * first.value).toPrecision(3)
  const unit = { frames: ' frames', seconds: ' s', share: '' }[props.pulse.unit ?? 'frames']
  return `Fits up to ${most}${unit}${at ? `; there the take runs out at frame ${at.frame}` : ''}.`
})

const tooth = computed(() =>
  view.tooth?.pass === props.pulse.id
    ? props.derived?.teeth.find((each) => each.cue === view.tooth!.cue)
    : undefined,
)
const ownOf = computed(() => props.pulse.own?.find((each) => each.cue === tooth.value?.cue)?.amount)
const silence = (cue: string, silent: boolean) =>
  change({ silent: [...(props.pulse.silent ?? []).filter((id) => id !== cue), ...(silent ? [cue] : [])] })
const setOwn = (cue: string, amount: number | null) => {
  const others = (props.pulse.own ?? []).filter((each) => each.cue !== cue)
  change({ own: amount === null ? others : [...others, { cue, amount }] })
}
const again = () => change({ seed: Math.floor(Math.random() * 2 ** 31) })
</script>

<template>
  <div class="flex flex-col gap-1.5">
    <div class="grid grid-cols-2 gap-x-2">
      <PickList label="Pattern" :model-value="pattern" :options="PATTERNS" @update:model-value="choose" />
      <PickList
        v-if="hasAmount"
        label="Counted in"
        :model-value="pulse.unit ?? 'frames'"
        :options="UNITS"
        @update:model-value="change({ unit: $event })"
      />
    </div>
    <PickList label="On" :model-value="''" :options="others" @update:model-value="chooseCues" />
    <NumberSlider
      v-if="hasAmount"
      label="Amount"
      :min="-most"
      :max="most"
      :step="pulse.unit === 'frames' ? 1 : 0.01"
      :value="first"
      @input="attempt(amounts($event))"
      @change="change(amounts($event))"
    />
    <template v-if="hasAmount">
      <NumberSlider
        label="Attack, frames"
        :min="0"
        :max="60"
        :step="1"
        :value="pulse.attack ?? 0"
        @input="attempt({ attack: Math.round($event) })"
        @change="change({ attack: Math.round($event) })"
      />
      <NumberSlider
        v-if="pattern === 'push'"
        label="Release, frames"
        :min="0"
        :max="60"
        :step="1"
        :value="pulse.release ?? 0"
        @input="attempt({ release: Math.round($event) })"
        @change="change({ release: Math.round($event) })"
      />
      <p v-if="room" class="num text-[12px] text-muted">{{ room }}</p>
      <button v-if="pattern === 'wander'" class="btn justify-center" @click="again">Draw again</button>
    </template>
    <div
      v-if="tooth"
      class="flex flex-col gap-1 rounded border border-line p-1.5"
      role="group"
      :aria-label="`Tooth at frame ${tooth.n}`"
    >
      <p class="num text-[12px]">Tooth at frame {{ tooth.n }}</p>
      <CheckRow :checked="tooth.silent" @change="silence(tooth.cue, $event)">Silent</CheckRow>
      <NumberField
        v-if="hasAmount"
        label="Its own amount"
        step="any"
        :digits="pulse.unit === 'frames' ? 0 : 2"
        :value="ownOf ?? first"
        @change="setOwn(tooth.cue, $event)"
      />
      <button v-if="ownOf !== undefined" class="btn justify-center" @click="setOwn(tooth.cue, null)">
        As the others
      </button>
    </div>
    <button v-if="also.length" class="btn justify-center" @click="copy">
      Put on {{ counted(also.length, 'more clip') }}
    </button>
    <details>
      <summary class="cursor-pointer text-[12px] leading-6 text-muted">Which cues, which course</summary>
      <div class="mt-1 grid grid-cols-2 gap-x-2 gap-y-1">
        <NumberField
          label="Every"
          :min="1"
          :value="pulse.every ?? 1"
          @change="change({ every: Math.round($event) })"
        />
        <NumberField
          label="From the"
          :min="1"
          :value="pulse.first ?? 1"
          @change="change({ first: Math.round($event) })"
        />
        <NumberField
          label="Least strength, %"
          :min="0"
          :value="100 * (pulse.least ?? 0)"
          @change="change({ least: Math.max(0, Math.min(1, $event / 100)) })"
        />
        <NumberField
          label="Lead-in, frames"
          :value="pulse.early ?? 0"
          @change="change({ early: Math.round($event) })"
        />
        <NumberField
          label="By strength, %"
          title="How far the amount follows the strength of its cue"
          :min="0"
          :value="100 * (pulse.by_strength ?? 0)"
          @change="change({ by_strength: Math.max(0, Math.min(1, $event / 100)) })"
        />
        <NumberField
          label="Growth, %"
          title="From each tooth to the next"
          :min="10"
          :value="100 * (pulse.growth ?? 1)"
          @change="change({ growth: $event / 100 })"
        />
        <PickList
          label="Attack course"
          :model-value="pulse.rise ?? 'soft'"
          :options="COURSES"
          @update:model-value="change({ rise: $event })"
        />
        <PickList
          v-if="pattern === 'push'"
          label="Release course"
          :model-value="pulse.fall ?? 'soft'"
          :options="COURSES"
          @update:model-value="change({ fall: $event })"
        />
      </div>
      <CheckRow
        class="mt-1"
        :checked="pulse.at_end === 'turn'"
        @change="change({ at_end: $event ? 'turn' : 'stop' })"
      >
        Turn round at the take's ends
      </CheckRow>
    </details>
  </div>
</template>
