<script setup lang="ts">
/** What is repeated at cues along a clip: on or off, changed, taken away, or made plain pins. */
import { ChevronUp, Trash2 } from '@lucide/vue'
import { computed } from 'vue'
import type { Clip, Command } from '@/api/client'
import NumberField from '@/components/controls/NumberField.vue'
import PickList from '@/components/controls/PickList.vue'
import RowAction from '@/components/RowAction.vue'
import PulseFields from './PulseFields.vue'
import RoomGauge from './RoomGauge.vue'
import { counted } from '@/lib/format'
import { amountSaid, inkOf, markOf, patternName, type Pass, type Pulse } from '@/lib/pulses'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'

type Change = Omit<Extract<Command, { do: 'change-pass' }>, 'do' | 'clip' | 'id'>

const props = defineProps<{ clip: Clip }>()
const edit = useEdit()
const view = useView()

const NAMES: Record<Pass['kind'], string> = {
  jumps: 'Jump cuts',
  alternation: 'Slow and fast',
  bends: 'Bends',
  pulse: 'Pulse',
}
const nameOf = (pass: Pass) =>
  pass.kind === 'pulse' ? `Pulse: ${patternName(pass.pattern ?? 'step')}` : NAMES[pass.kind]
const pulses = computed(() => edit.derivedById.get(props.clip.id)?.pulses)
const derivedOf = (id: string) => pulses.value?.pulses.find((each) => each.id === id)
/** Which of the pulses that are on it is: that says the colour and the mark of its teeth. */
const placeOf = (id: string) => pulses.value?.pulses.findIndex((each) => each.id === id) ?? -1
const pulseSaid = (pass: Pulse) => [amountSaid(pass), `on ${cuesOf(pass)}`].filter(Boolean).join(', ')
/** The one added last, and the one of which a tooth is chosen. */
const isOpen = (pass: Pass, index: number) =>
  index === props.clip.passes!.length - 1 || view.tooth?.pass === pass.id
const fixable = computed(() => props.clip.passes?.some((pass) => pass.kind !== 'pulse'))
const take = computed(() => edit.takeOf(props.clip.id))
const BENDS: { value: 'dip' | 'swell'; text: string }[] = [
  { value: 'dip', text: 'slow' },
  { value: 'swell', text: 'quick' },
]
function cuesOf({ cues, selection }: Pass): string {
  const kept = edit.song?.selections?.find((each) => each.id === selection)
  return kept ? kept.name : counted(cues?.length ?? 0, 'cue')
}
const share = (percent: number) => Math.max(0, Math.min(1, percent / 100))
const change = (id: string, values: Change) =>
  void edit.run({ do: 'change-pass', clip: props.clip.id, id, ...values })
</script>

<template>
  <div v-if="clip.passes?.length" class="flex flex-col gap-1.5" role="group" aria-label="Repeated at cues">
    <div v-for="(pass, index) in clip.passes" :key="pass.id" class="rounded-md bg-raised p-2">
      <div class="flex items-center gap-2">
        <label class="flex min-w-0 flex-1 items-center gap-2">
          <input
            type="checkbox"
            class="accent-brass"
            :checked="pass.on"
            @change="change(pass.id, { works: ($event.target as HTMLInputElement).checked })"
          />
          <svg v-if="placeOf(pass.id) >= 0" viewBox="-5 -1 10 9" class="h-3 w-3 shrink-0" aria-hidden="true">
            <path
              :d="markOf(placeOf(pass.id))"
              :fill="`var(--${inkOf(placeOf(pass.id))})`"
              stroke="var(--paper)"
              stroke-width="0.7"
            />
          </svg>
          <span class="truncate font-semibold">{{ nameOf(pass) }}</span>
          <span v-if="pass.kind !== 'pulse'" class="num ml-auto shrink-0 text-[12px] text-muted">
            {{ cuesOf(pass) }}
          </span>
        </label>
        <RowAction
          v-if="index"
          :label="`Move up: ${nameOf(pass)}`"
          @click="change(pass.id, { place: index - 1 })"
        >
          <ChevronUp :size="15" />
        </RowAction>
        <RowAction
          :label="`Remove: ${nameOf(pass)}`"
          @click="edit.run({ do: 'remove-pass', clip: clip.id, id: pass.id })"
        >
          <Trash2 :size="15" />
        </RowAction>
      </div>
      <details v-if="pass.kind === 'pulse'" class="mt-0.5" :open="isOpen(pass, index)">
        <summary class="num cursor-pointer text-[12px] leading-6 text-muted">{{ pulseSaid(pass) }}</summary>
        <PulseFields class="mt-1" :clip="clip.id" :pulse="pass" :derived="derivedOf(pass.id)" />
      </details>
      <div v-else class="mt-1 grid grid-cols-2 gap-x-2">
        <template v-if="pass.kind === 'jumps'">
          <NumberField
            label="Skip"
            :value="pass.leave!"
            @change="change(pass.id, { leave: Math.round($event) })"
          />
          <NumberField
            label="Increase"
            :value="pass.more!"
            @change="change(pass.id, { more: Math.round($event) })"
          />
        </template>
        <template v-else-if="pass.kind === 'bends'">
          <PickList
            label="Between cues"
            :model-value="pass.shape!"
            :options="BENDS"
            @update:model-value="change(pass.id, { shape: $event })"
          />
          <NumberField
            label="Strength, %"
            :min="0"
            :digits="0"
            :value="100 * pass.strength!"
            @change="change(pass.id, { strength: share($event) })"
          />
        </template>
        <template v-else>
          <NumberField
            label="Speed ratio"
            :min="0.1"
            :digits="1"
            :value="pass.ratio!"
            @change="change(pass.id, { ratio: $event })"
          />
          <NumberField
            label="Lead-in, frames"
            :min="0"
            :value="pass.early!"
            @change="change(pass.id, { early: Math.round($event) })"
          />
        </template>
      </div>
    </div>
    <RoomGauge v-if="pulses && take" :pulses="pulses" :frames="take.frames" />
    <button
      v-if="fixable"
      class="btn justify-center"
      title="The clip runs as it does, and follows these cues no more"
      @click="edit.run({ do: 'fix-passes', clip: clip.id })"
    >
      Make pins of these
    </button>
  </div>
</template>
