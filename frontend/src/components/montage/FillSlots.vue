<script setup lang="ts">
/** Filling the stretches between chosen cues from the shelf. */
import { computed, onMounted, onScopeDispose, ref, shallowRef, watch, watchEffect } from 'vue'
import { api, take, type Recipe } from '@/api/client'
import NumberField from '@/components/controls/NumberField.vue'
import PickList from '@/components/controls/PickList.vue'
import { useCueChoice } from '@/composables/useCueChoice'
import { useEdit } from '@/stores/edit'
import { useMontage } from '@/stores/montage'
import { useNotices } from '@/stores/notices'
import { useView } from '@/stores/view'

const edit = useEdit()
const view = useView()
const montage = useMontage()
const notices = useNotices()
const { on, choices, cuesOf } = useCueChoice()

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

/** How long a stretch is, in beats, frames and seconds. */
function long(seconds: number): string {
  const tempo = edit.music?.tempo
  const beats = tempo ? `${+((seconds * tempo) / 60).toFixed(1)} beats, ` : ''
  return `${beats}${Math.round(seconds * view.outputRate)} frames, ${seconds.toFixed(2)} s`
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
  return `${at.length - 1} slots of ${long((at.at(-1)! - at[0]!) / (at.length - 1))}`
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
const recipes = shallowRef<Recipe[]>([])
onMounted(async () => (recipes.value = (await notices.guard(take(api.GET('/api/recipes'))))?.recipes ?? []))
const retimed = computed(() => [
  { value: '', text: 'at real time' },
  ...[...(edit.edit?.recipes ?? []), ...recipes.value].map(({ id, name }) => ({ value: id, text: name })),
])

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
    <PickList v-model="how" label="In each" :options="named(HOWS)" />
    <PickList v-model="order" label="Shots" :options="named(ORDERS)" />
    <NumberField
      v-if="order === 'random'"
      label="Chance"
      :min="0"
      :value="seed"
      @change="seed = Math.round($event)"
    />
    <PickList v-model="recipe" label="Retimed" :options="retimed" />
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
