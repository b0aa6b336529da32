<script setup lang="ts">
/** What can be done at a pin: hold, run back, leave frames out, pass through, work backwards. */
import { computed, ref, shallowRef, watch } from 'vue'
import { api, Failure, take, type Clip, type Schemas } from '@/api/client'
import CheckRow from '@/components/controls/CheckRow.vue'
import NumberField from '@/components/controls/NumberField.vue'
import PickList from '@/components/controls/PickList.vue'
import { cueOptions } from '@/lib/cues'
import { percent } from '@/lib/format'
import { useEdit } from '@/stores/edit'
import { useMusic } from '@/stores/music'
import { kindName } from '@/lib/terms'

const props = defineProps<{ clip: Clip; pin: Clip['pins'][number]; inner: boolean }>()
const edit = useEdit()
const music = useMusic()

const held = ref(12)
const back = ref(24)
const found = shallowRef<Schemas['Arrangement'][] | null>(null)
watch(
  () => [props.pin.id, edit.state?.revision],
  () => (found.value = null),
)

const at = () => ({ clip: props.clip.id, pin: props.pin.id })
const set = (change: { through?: boolean; guarded?: boolean }) =>
  void edit.run({ do: 'set-pin', ...at(), ...change })
/** Cues after the pin, up to which its picture can be held. */
const until = computed(() => {
  const place = edit.derivedById.get(props.clip.id)?.pins.find((pin) => pin.id === props.pin.id)
  const later = edit.cues.filter((cue) => (edit.cueFrames.get(cue.id) ?? 0) > (place?.n ?? 0))
  return [{ value: '', text: 'choose a cue' }, ...cueOptions(later, edit.clock.time(place?.n ?? 0))]
})
const heldUntil = computed({
  get: () => '',
  set: (cue) => cue && void edit.run({ do: 'hold-picture', ...at(), cue }),
})
const hold = () => void edit.run({ do: 'hold-picture', ...at(), frames: held.value })
const mirror = () => void edit.run({ do: 'turn-back', ...at() })
const wind = () => void edit.run({ do: 'turn-back', ...at(), back: back.value, frames: back.value })
const chosen = () => (music.chosen ? [...music.chosen] : [])

/** Speeds within which earlier moments are paired, and those that are offered where they do not do. */
const LIMITS = { slowest: 0.25, fastest: 4 }
const LIFTED = { slowest: 0.05, fastest: 16 }

async function workBackwards(limits = LIMITS): Promise<void> {
  if (!edit.state) return
  const body = { ...at(), cues: chosen(), ...limits }
  const asked = api.POST('/api/edits/{id}/backwards', { params: { path: { id: edit.id } }, body })
  try {
    found.value = (await take(asked)).arrangements
  } catch (failure) {
    if (!(failure instanceof Failure)) throw failure
    const narrow = failure.problem.code === 'no-way' && limits === LIMITS
    const lift = { label: 'Allow 5 % to 1600 %', act: () => workBackwards(LIFTED) }
    edit.problem(failure, narrow ? [lift] : [])
  }
}

function tieAll(arrangement: Schemas['Arrangement']): void {
  const ties = arrangement.ties.map(({ moment, cue }) => ({ moment, cue }))
  const { moment, cue } = props.pin
  if (moment && cue)
    void edit.run({ do: 'tie-moments', clip: props.clip.id, ties: [...ties, { moment, cue }] })
}
</script>

<template>
  <div class="flex flex-col gap-2">
    <CheckRow v-if="inner" :checked="pin.through" @change="set({ through: $event })">
      The speed passes through
    </CheckRow>
    <CheckRow v-if="pin.moment && pin.cue" :checked="pin.guarded" @change="set({ guarded: $event })">
      No blend or blur shows it early
    </CheckRow>
    <button v-if="pin.moment && pin.cue" class="btn justify-center" @click="workBackwards()">
      Work backwards from here
    </button>
    <ol v-if="found" class="flex flex-col gap-1" aria-label="Proposed ties">
      <li v-for="(arrangement, index) in found" :key="index" class="rounded-md bg-raised p-2">
        <p
          v-for="tie in arrangement.ties"
          :key="tie.moment"
          class="num flex justify-between gap-2 text-[12px]"
        >
          <span class="truncate">{{ tie.label }}</span>
          <span class="shrink-0"
            >{{ kindName(edit.cueById.get(tie.cue)?.kind) }} {{ edit.cueById.get(tie.cue)?.at.toFixed(2) }} s
            · {{ percent(tie.speed) }}</span
          >
        </p>
        <p class="text-[12px] text-muted">{{ arrangement.why.slice(1).join('; ') }}</p>
        <button class="btn mt-1 w-full justify-center" @click="tieAll(arrangement)">
          {{ index === 0 ? 'Tie these, the best' : 'Tie these' }}
        </button>
      </li>
    </ol>
    <details>
      <summary class="cursor-pointer text-muted">Freeze, reverse, skip</summary>
      <div class="mt-2 grid grid-cols-[1fr_auto] items-end gap-x-2 gap-y-2">
        <NumberField
          label="Freeze, output frames"
          :min="1"
          :value="held"
          @change="held = Math.round($event)"
        />
        <button class="btn" @click="hold">Freeze</button>
        <PickList v-model="heldUntil" class="col-span-2" label="Freeze up to" :options="until" />
        <NumberField label="Reverse, frames" :min="1" :value="back" @change="back = Math.round($event)" />
        <button class="btn" @click="wind">Reverse</button>
        <span v-if="clip.pins[0] !== pin" class="text-muted">Mirror the approach</span>
        <button v-if="clip.pins[0] !== pin" class="btn" @click="mirror">Mirror</button>
        <NumberField
          v-if="clip.pins.at(-1) !== pin"
          class="col-span-2"
          label="Skip after it, source frames"
          :min="0"
          :value="pin.skip ?? 0"
          @change="edit.run({ do: 'set-pin', ...at(), skip: Math.round($event) })"
        />
      </div>
    </details>
  </div>
</template>
