<script setup lang="ts">
/** Filling the stretches between chosen cues from the shelf. */
import { computed, ref } from 'vue'
import NumberField from '@/components/controls/NumberField.vue'
import PickList from '@/components/controls/PickList.vue'
import { useCueChoice } from '@/composables/useCueChoice'
import { useEdit } from '@/stores/edit'
import { useMontage } from '@/stores/montage'
import { useView } from '@/stores/view'

const edit = useEdit()
const view = useView()
const montage = useMontage()
const { on, choices, kinds, cuesOf } = useCueChoice()

const HOWS = {
  cut: 'the moment lands on the cut',
  inside: 'the moment lands inside',
  begin: 'begins with the shot',
  end: 'ends with the shot',
  stretch: 'the whole shot fits',
}
const ORDERS = { given: 'shelf order', weight: 'by weight', random: 'by chance' }
const how = ref<keyof typeof HOWS>('cut')
const order = ref<keyof typeof ORDERS>('given')
const seed = ref(1)
const from = ref<number | null>(null)
const to = ref<number | null>(null)
const blackAfter = ref(0)
const named = <T extends Record<string, string>>(texts: T) =>
  Object.entries(texts).map(([value, text]) => ({ value: value as keyof T & string, text }))
const begin = computed(() => from.value ?? montage.range?.from ?? 0)
const end = computed(() => to.value ?? montage.range?.to ?? edit.end)

const slots = computed(() => {
  const at = edit.cues
    .filter((cue) => kinds.value.includes(cue.kind) && cue.at >= begin.value && cue.at <= end.value)
    .map((cue) => cue.at)
  if (at.length < 2) return ''
  const mean = (at.at(-1)! - at[0]!) / (at.length - 1)
  const tempo = edit.music?.tempo
  const beats = tempo ? `${+((mean * tempo) / 60).toFixed(1)} beats, ` : ''
  return `${at.length - 1} slots of ${beats}${Math.round(mean * view.outputRate)} frames, ${mean.toFixed(2)} s`
})

type Shot = { take?: string; select?: string }

/** Selects of the takes that have some, whole takes else; with a black slot after so many of them. */
function shotsOf(): Shot[] {
  const shots: Shot[] = edit.takes.flatMap((each) =>
    each.selects?.length
      ? each.selects.map((select) => ({ take: each.id, select: select.id }))
      : [{ take: each.id }],
  )
  const every = blackAfter.value
  if (!every) return shots
  return shots.flatMap((shot, index) => ((index + 1) % every ? [shot] : [shot, {}]))
}

async function fill(): Promise<void> {
  const cues = await cuesOf(begin.value, end.value)
  await edit.run({
    do: 'fill-slots',
    cues,
    shots: shotsOf(),
    how: how.value,
    order: order.value,
    seed: seed.value,
  })
}
</script>

<template>
  <div class="flex flex-col gap-2">
    <PickList v-model="on" label="Slots between" :options="choices" />
    <div class="grid grid-cols-2 gap-2">
      <NumberField label="From, s" :min="0" :digits="1" :value="begin" @change="from = $event" />
      <NumberField label="To, s" :min="0" :digits="1" :value="end" @change="to = $event" />
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
    <NumberField
      label="A black slot after so many shots"
      :min="0"
      :value="blackAfter"
      @change="blackAfter = Math.max(0, Math.round($event))"
    />
    <button class="btn btn-main justify-center" :disabled="!edit.takes.length || !edit.song" @click="fill">
      Fill from the shelf
    </button>
  </div>
</template>
