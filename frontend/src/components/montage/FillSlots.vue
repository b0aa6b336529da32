<script setup lang="ts">
/** Filling the stretches between chosen cues from the shelf. */
import { computed, onScopeDispose, ref, shallowRef, watch, watchEffect } from 'vue'
import NumberField from '@/components/controls/NumberField.vue'
import PickList from '@/components/controls/PickList.vue'
import { counted } from '@/lib/format'
import { useCueChoice } from '@/composables/useCueChoice'
import { useRecipes } from '@/composables/useRecipes'
import { useEdit } from '@/stores/edit'
import { useMontage } from '@/stores/montage'
import { useShelf } from '@/stores/shelf'

const edit = useEdit()
const montage = useMontage()
const shelf = useShelf()
const { on, choices, cuesOf } = useCueChoice()

const HOWS = {
  cut: 'the moment lands on the cut',
  inside: 'the moment lands inside',
  begin: 'begins with the shot',
  end: 'ends with the shot',
  stretch: 'the whole shot fits',
}
const ORDERS = { given: 'shelf order', weight: 'by weight', random: 'random' }
const how = ref<keyof typeof HOWS>('cut')
const order = ref<keyof typeof ORDERS>('given')
const seed = ref(1)
const from = ref<number | null>(null)
const to = ref<number | null>(null)
const blackAfter = ref(0)
const together = ref(false)
const named = <T extends Record<string, string>>(texts: T) =>
  Object.entries(texts).map(([value, text]) => ({ value: value as keyof T & string, text }))
const begin = computed(() => from.value ?? montage.range?.from ?? 0)
const end = computed(() => to.value ?? montage.range?.to ?? edit.end)

/** How long a stretch is, in beats, frames and seconds. */
function long(seconds: number): string {
  const tempo = edit.music?.tempo
  const beats = tempo ? `${counted(+((seconds * tempo) / 60).toFixed(1), 'beat')}, ` : ''
  return `${beats}${counted(Math.round(edit.clock.at(seconds)), 'frame')}, ${seconds.toFixed(2)} s`
}
/** The cues between which slots lie; asked for anew whenever the choice changes. */
const chosen = shallowRef<string[]>([])
watch(
  [on, begin, end, () => edit.state?.revision],
  async () => (chosen.value = await cuesOf(begin.value, end.value)),
  { immediate: true },
)
const places = computed(() => chosen.value.flatMap((id) => edit.cueById.get(id)?.at ?? []))
const slots = computed(() => {
  const at = places.value
  if (at.length < 2) return ''
  return `${counted(at.length - 1, 'slot')} of ${long((at.at(-1)! - at[0]!) / (at.length - 1))}`
})
// They are seen on the sheet before anything is in them.
watchEffect(() => {
  montage.slots = places.value.slice(1).map((to, i) => {
    const from = places.value[i]!
    return { from, to, said: long(to - from) }
  })
})
onScopeDispose(() => (montage.slots = []))
const recipe = ref('')
const { all } = useRecipes()
const retimed = computed(() => [
  { value: '', text: 'at real time' },
  ...all.value.map(({ id, name }) => ({ value: id, text: name })),
])

type Shot = { take?: string; select?: string }

/**
 * Selects of the takes that have some, whole takes else, in the order of the shelf: take by take in turn, or
 * all of a take together; with a black slot after so many of them.
 */
function shotsOf(): Shot[] {
  const byTake = shelf.inOrder.map((each): Shot[] =>
    each.selects?.length
      ? each.selects.map((select) => ({ take: each.id, select: select.id }))
      : [{ take: each.id }],
  )
  const rounds = Math.max(0, ...byTake.map((each) => each.length))
  const inTurn = Array.from({ length: rounds }, (_, round) => byTake.flatMap((each) => each[round] ?? []))
  const shots = together.value ? byTake.flat() : inTurn.flat()
  const every = blackAfter.value
  if (!every) return shots
  return shots.flatMap((shot, index) => ((index + 1) % every ? [shot] : [shot, {}]))
}

async function fill(): Promise<void> {
  await edit.run({
    do: 'fill-slots',
    cues: chosen.value,
    shots: shotsOf(),
    how: how.value,
    order: order.value,
    seed: seed.value,
    recipe: recipe.value || null,
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
    <p v-else class="text-bad">No two such cues lie there.</p>
    <PickList v-model="how" label="In each" :options="named(HOWS)" />
    <PickList v-model="order" label="Shots" :options="named(ORDERS)" />
    <NumberField
      v-if="order === 'random'"
      label="Random seed"
      :min="0"
      :value="seed"
      @change="seed = Math.round($event)"
    />
    <label v-if="order === 'given'" class="flex items-center gap-2">
      <input v-model="together" type="checkbox" class="accent-brass" />One take's selects side by side
    </label>
    <PickList v-model="recipe" label="Retimed" :options="retimed" />
    <NumberField
      label="A black slot after so many shots"
      :min="0"
      :value="blackAfter"
      @change="blackAfter = Math.max(0, Math.round($event))"
    />
    <button class="btn btn-main justify-center" :disabled="!edit.takes.length || !slots" @click="fill">
      Fill from the shelf
    </button>
  </div>
</template>
