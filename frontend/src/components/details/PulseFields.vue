<script setup lang="ts">
/** What a pulse does: tried while it is dragged, kept when it is meant. One tooth can be changed alone. */
import { computed } from 'vue'
import type { DerivedClip } from '@/api/client'
import NumberSlider from '@/components/controls/NumberSlider.vue'
import PickList from '@/components/controls/PickList.vue'
import { useAttempts } from '@/composables/useAttempts'
import { useCueChoice } from '@/composables/useCueChoice'
import { counted } from '@/lib/format'
import { PATTERNS, UNITS, unitSaid, type Pattern, type Pulse, type PulseValues } from '@/lib/pulses'
import { useEdit } from '@/stores/edit'
import { useMontage } from '@/stores/montage'
import { useNotices } from '@/stores/notices'
import { useView } from '@/stores/view'
import PulseMore from './PulseMore.vue'
import ToothFields from './ToothFields.vue'

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

const pattern = computed(() => props.pulse.pattern ?? 'step')
const hasAmount = computed(() => pattern.value !== 'again')
/** How far the slider goes: a hand's width; any amount can be typed. */
const most = computed(() => ({ frames: 60, seconds: 3, share: 1 })[props.pulse.unit ?? 'frames'])
const first = computed(() => props.pulse.amounts?.[0] ?? 0)
/** The same cycle of amounts, as large as its first one says; at 0 the others stay, so that they are not lost. */
function amounts(value: number): PulseValues {
  const by = first.value && value ? value / first.value : 1
  return { amounts: (props.pulse.amounts ?? []).map((each, i) => (i ? each * by : value)) }
}
const step = computed(() => (props.pulse.unit === 'frames' ? 1 : 0.01))
const ofAmount = useAttempts(
  (value) => set(amounts(value)),
  () => first.value,
  () => step.value,
)
const ofFrames = (name: 'attack' | 'release') =>
  useAttempts(
    (value) => set({ [name]: Math.round(value) }),
    () => props.pulse[name] ?? 0,
    () => 1,
  )
const ofAttack = ofFrames('attack')
const ofRelease = ofFrames('release')
/** A cycle that goes there and back has a second amount to begin with. */
function choose(next: Pattern): void {
  const amount = first.value || 6
  change({ pattern: next, amounts: next === 'to-and-fro' ? [amount, -amount] : [amount] })
}
const room = computed(() => {
  const { times, runs_out } = props.derived ?? {}
  if (!times || times >= 1000 || !hasAmount.value) return ''
  const at = edit.cues.find((cue) => cue.id === runs_out)
  const fits = unitSaid(+(times * first.value).toPrecision(3), props.pulse.unit)
  return `Up to ${fits} fit${at ? `; the limit is at frame ${at.frame}` : ''}.`
})

const tooth = computed(() =>
  view.tooth?.pass === props.pulse.id
    ? props.derived?.teeth.find((each) => each.cue === view.tooth!.cue)
    : undefined,
)
const again = () => change({ seed: Math.floor(Math.random() * 2 ** 31) })
</script>

<template>
  <div class="flex flex-col gap-1.5">
    <div class="grid grid-cols-2 gap-x-2">
      <PickList label="Pattern" :model-value="pattern" :options="PATTERNS" @update:model-value="choose" />
      <PickList
        v-if="hasAmount"
        label="Unit"
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
      :step="step"
      :value="first"
      v-on="ofAmount"
      @change="change(amounts($event))"
    />
    <template v-if="hasAmount">
      <NumberSlider
        label="Attack, frames"
        :min="0"
        :max="60"
        :step="1"
        :value="pulse.attack ?? 0"
        v-on="ofAttack"
        @change="change({ attack: Math.round($event) })"
      />
      <NumberSlider
        v-if="pattern === 'push'"
        label="Release, frames"
        :min="0"
        :max="60"
        :step="1"
        :value="pulse.release ?? 0"
        v-on="ofRelease"
        @change="change({ release: Math.round($event) })"
      />
      <p v-if="room" class="num text-[12px] text-muted">{{ room }}</p>
      <button v-if="pattern === 'wander'" class="btn justify-center" @click="again">Draw again</button>
    </template>
    <ToothFields v-if="tooth" :tooth="tooth" :pulse="pulse" @change="change" />
    <button v-if="also.length" class="btn justify-center" @click="copy">
      Copy to {{ counted(also.length, 'more clip') }}
    </button>
    <PulseMore :pulse="pulse" @change="change" />
  </div>
</template>
