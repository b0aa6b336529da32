<script setup lang="ts">
/** A tie (or a plain pin): which moment lands on which cue. */
import { computed } from 'vue'
import type { Clip } from '@/api/client'
import PickList from '@/components/controls/PickList.vue'
import { cueOptions } from '@/lib/cues'
import { useClipName } from '@/composables/useClipName'
import { percent, signedMs } from '@/lib/format'
import { momentName } from '@/lib/names'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'
import AccentWork from './AccentWork.vue'
import PinWork from './PinWork.vue'
import TieAgain from './TieAgain.vue'

const props = defineProps<{ clip: Clip; pin: Clip['pins'][number] }>()
const edit = useEdit()
const view = useView()
const clipName = useClipName()

const landing = computed(() =>
  edit.derivedById.get(props.clip.id)?.landings.find((other) => other.pin === props.pin.id),
)
const resolved = computed(() =>
  edit.derivedById.get(props.clip.id)?.pins.find((other) => other.id === props.pin.id),
)
/** Told where its cue is gone. */
const loose = computed(() =>
  edit.derived?.loose.find((other) => other.clip === props.clip.id && other.pin === props.pin.id),
)
/** Whether a span runs into it and one out of it. */
const inner = computed(() => props.clip.pins.indexOf(props.pin) % (props.clip.pins.length - 1) !== 0)
const cues = computed(() =>
  cueOptions(edit.cues, resolved.value ? edit.clock.time(resolved.value.n) : view.playhead, props.pin.cue),
)
const moments = computed(() =>
  (view.take?.moments ?? []).map((moment) => ({
    value: moment.id,
    text: moment.label ? `${moment.label} (${moment.frame})` : momentName(moment),
  })),
)
const cue = computed({
  get: () => props.pin.cue ?? '',
  set: (id) => void edit.run({ do: 'change-tie', clip: props.clip.id, pin: props.pin.id, cue: id }),
})
const moment = computed({
  get: () => props.pin.moment ?? '',
  set: (id) => void edit.run({ do: 'change-tie', clip: props.clip.id, pin: props.pin.id, moment: id }),
})
</script>

<template>
  <section class="flex flex-col gap-3" aria-label="Tie">
    <div>
      <h2 class="text-[15px] font-semibold">{{ landing?.label ?? loose?.label ?? 'Pin' }}</h2>
      <p v-if="loose" class="text-bad">Loose: its cue is gone, and it stays on its frame.</p>
      <p v-else class="text-muted">{{ landing ? 'A moment tied to a cue' : 'Held in place, not tied' }}</p>
    </div>
    <div v-if="loose?.proposed" class="flex items-center justify-between gap-2">
      <span class="text-muted">Tie it to the</span><TieAgain :loose="loose" />
    </div>
    <PickList v-model="moment" label="Moment" :options="moments" />
    <PickList v-model="cue" label="Lands on" :options="cues" />
    <p v-if="landing?.hidden_by" class="text-bad">Hidden by {{ clipName(landing.hidden_by) }}.</p>
    <dl v-if="landing" class="num grid grid-cols-[1fr_auto] gap-x-3 gap-y-0.5 [&>dd]:text-right">
      <dt class="text-muted">Output frame</dt>
      <dd>{{ landing.landed_frame ?? '–' }}</dd>
      <dt class="text-muted">Source frame</dt>
      <dd>{{ landing.source_frame }}</dd>
      <dt class="text-muted">Off by</dt>
      <dd :class="landing.exact ? 'text-good' : 'text-bad'">{{ signedMs(landing.residual_ms) }}</dd>
      <dt class="text-muted">Speed in, out</dt>
      <dd>{{ percent(landing.speed_in) }}, {{ percent(landing.speed_out) }}</dd>
      <dt class="text-muted">Repeats around</dt>
      <dd>{{ landing.repeats_around || 'none' }}</dd>
    </dl>
    <dl v-else-if="resolved" class="num grid grid-cols-[1fr_auto] gap-x-3 [&>dd]:text-right">
      <dt class="text-muted">Output frame</dt>
      <dd>{{ +resolved.n.toFixed(2) }}</dd>
      <dt class="text-muted">Source frame</dt>
      <dd>{{ +resolved.p.toFixed(2) }}</dd>
    </dl>
    <AccentWork
      :at="{ to: 'ties', ties: [{ clip: clip.id, pin: pin.id }] }"
      :place="landing ? 'this hit' : 'this pin'"
      :clip="clip.id"
    />
    <PinWork :clip="clip" :pin="pin" :inner="inner" />
    <button class="btn justify-center" @click="edit.run({ do: 'remove-pin', clip: clip.id, pin: pin.id })">
      {{ landing ? 'Remove the tie' : 'Remove the pin' }}
    </button>
  </section>
</template>
