<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Moment, MomentKind } from '@/api/client'
import NumberField from '@/components/controls/NumberField.vue'
import PickList from '@/components/controls/PickList.vue'
import { cueOptions, MOMENT_KINDS, option } from '@/lib/cues'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'

const props = defineProps<{ moment: Moment }>()
const edit = useEdit()
const view = useView()
const take = computed(() => view.takeId ?? '')
const base = computed(() => ({ take: take.value, moment: props.moment.id }))
const kinds = MOMENT_KINDS.map(option)
const kind = computed<MomentKind>({
  get: () => props.moment.kind ?? 'impact',
  set: (value) => void edit.run({ do: 'change-moment', ...base.value, kind: value }),
})
const tied = computed(() => view.clip?.pins.some((pin) => pin.moment === props.moment.id) ?? false)
const cues = computed(() => cueOptions(edit.cues, view.playhead, chosen.value))
const nearest = computed(
  () =>
    [...edit.cues].sort((a, b) => Math.abs(a.at - view.playhead) - Math.abs(b.at - view.playhead))[0]?.id ??
    '',
)
const chosen = ref(nearest.value)

const text = (event: Event) => (event.target as HTMLInputElement).value

async function tie(): Promise<void> {
  const clip = view.clip
  const cue = chosen.value
  const done = await edit.run(
    clip
      ? { do: 'add-tie', clip: clip.id, moment: props.moment.id, cue }
      : { do: 'lay-take', take: take.value, moment: props.moment.id, cue },
  )
  if (done && !clip) view.fit()
}
</script>

<template>
  <section class="flex flex-col gap-3" aria-label="Moment">
    <h2 class="text-[15px] font-semibold">Moment at frame {{ moment.frame }}</h2>
    <label class="block">
      <span class="text-muted">Label</span>
      <input
        class="field"
        :value="moment.label"
        :placeholder="moment.kind"
        @change="edit.run({ do: 'change-moment', ...base, label: text($event) })"
      />
    </label>
    <PickList v-model="kind" label="Kind" :options="kinds" />
    <NumberField
      label="Source frame"
      :value="moment.frame"
      :min="0"
      @change="edit.run({ do: 'change-moment', ...base, frame: Math.round($event) })"
    />
    <template v-if="!tied && cues.length">
      <PickList v-model="chosen" label="Cue" :options="cues" />
      <button class="btn btn-main justify-center" :disabled="!chosen" @click="tie">
        {{ view.clip ? 'Tie it to this cue' : 'Lay the take: land here' }}
      </button>
    </template>
    <button class="btn justify-center" @click="edit.run({ do: 'remove-moment', ...base })">
      Delete the moment
    </button>
  </section>
</template>
