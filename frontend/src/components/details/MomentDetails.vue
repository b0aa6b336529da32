<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Moment, MomentKind } from '@/api/client'
import NumberField from '@/components/controls/NumberField.vue'
import PickList from '@/components/controls/PickList.vue'
import { useTying } from '@/composables/useTying'
import { cueOptions, option } from '@/lib/cues'
import { MOMENT_KINDS } from '@/lib/terms'
import { vTyped } from '@/lib/typing'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'

const props = defineProps<{ moment: Moment }>()
const edit = useEdit()
const view = useView()
const { tieMoment, layTake } = useTying()
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
</script>

<template>
  <section class="flex flex-col gap-3" aria-label="Moment">
    <h2 class="text-[15px] font-semibold">Moment at frame {{ moment.frame }}</h2>
    <label class="block">
      <span class="text-muted">Label</span>
      <input
        v-typed="moment.label"
        class="field"
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
    <template v-if="cues.length">
      <PickList v-model="chosen" label="Cue" :options="cues" />
      <button
        v-if="!tied"
        class="btn btn-main justify-center"
        :disabled="!chosen"
        @click="tieMoment(take, moment, chosen)"
      >
        {{ view.clip ? 'Tie it to this cue' : 'Lay the take: land here' }}
      </button>
      <button
        v-if="view.clip"
        class="btn justify-center"
        :disabled="!chosen"
        title="One more clip of this take, with this moment on the cue"
        @click="layTake(take, moment, chosen)"
      >
        Lay the take once more
      </button>
    </template>
    <button class="btn justify-center" @click="edit.run({ do: 'remove-moment', ...base })">
      Delete the moment
    </button>
  </section>
</template>
