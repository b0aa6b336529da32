<script setup lang="ts">
/** All titles, in the order in which they come; another one; and where the edit ends. */
import { computed, ref } from 'vue'
import PickList from '@/components/controls/PickList.vue'
import NumberField from '@/components/controls/NumberField.vue'
import { seconds } from '@/lib/format'
import { soundName } from '@/lib/sounds'
import { kindName } from '@/lib/terms'
import { titleName } from '@/lib/titles'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'
import LaidRows from './LaidRows.vue'
import TitleFields from './TitleFields.vue'

const edit = useEdit()
const view = useView()
const text = ref('')
const at = (frame: number) => seconds(edit.clock.time(frame))
const titles = computed(() =>
  [...edit.titles]
    .sort((a, b) => edit.frameOf(a.since) - edit.frameOf(b.since))
    .map((each) => {
      const until = each.to_end && ending.value ? 'the end' : at(edit.frameOf(each.until))
      const cue = edit.cueById.get(each.since.cue ?? '')
      const on = cue ? `, on ${kindName(cue.kind)}` : ''
      const said = `${at(edit.frameOf(each.since))} to ${until}${on}`
      return { ...each, name: titleName(each), called: `title ${titleName(each)}`, said }
    }),
)
const byId = computed(() => new Map(edit.titles.map((each) => [each.id, each])))
const here = () => edit.placeOn(view.frame)

async function add(): Promise<void> {
  const known = new Set(edit.titles.map(({ id }) => id))
  const range = edit.edit?.range
  const since = range ? edit.placeOf(range.since) : here()
  const until = range ? edit.placeOf(range.until) : undefined
  if (!(await edit.run({ do: 'add-title', text: text.value.trim() || 'Title', since, until }))) return
  text.value = ''
  view.title = edit.titles.find(({ id }) => !known.has(id))?.id ?? view.title
}

const ending = computed(() => edit.edit?.ending ?? null)
const NONE = ''
const sounds = computed(() => [
  { value: NONE, text: 'at that place' },
  ...edit.sounds.map((each) => ({ value: each.id, text: `after ${soundName(each)}` })),
])
const endSaid = computed(() => {
  const end = edit.derived?.end
  return end ? `Black from ${at(end.dark)}, over at ${at(end.stop)}` : 'With the last clip or title'
})
const end = (title?: string) => edit.run({ do: 'end-edit', at: here(), title })
const change = (values: { sound?: string; tail?: number }) =>
  edit.run({
    do: 'end-edit',
    at: edit.placeOf(ending.value!.at),
    sound: ending.value?.sound ?? undefined,
    ...values,
  })
</script>

<template>
  <h2 class="heading">Titles</h2>
  <LaidRows
    v-if="titles.length"
    v-slot="{ id }"
    v-model="view.title"
    class="-mt-2"
    :laid="titles"
    aria-label="Titles"
    @works="(id, works) => edit.run({ do: 'change-title', title: id, works })"
    @remove="edit.run({ do: 'remove-title', title: $event })"
  >
    <TitleFields class="mt-1" :title="byId.get(id)!" />
  </LaidRows>
  <form class="-mt-1 grid grid-cols-[1fr_auto] gap-1" @submit.prevent="add">
    <input v-model="text" class="field" dir="auto" aria-label="What to write" placeholder="What to write" />
    <button class="btn" :title="edit.edit?.range ? 'Over the range' : 'For a bar, from here on'">
      Write
    </button>
  </form>
  <details :open="!!ending">
    <summary class="heading cursor-pointer">End of the edit</summary>
    <div class="mt-1 flex flex-col gap-1.5">
      <p class="num text-muted">{{ endSaid }}</p>
      <div class="grid grid-cols-2 gap-1">
        <button class="btn justify-center px-1!" @click="end()">Black from here</button>
        <button class="btn justify-center px-1!" @click="end(edit.edit!.title)">Card from here</button>
      </div>
      <template v-if="ending">
        <div class="grid grid-cols-[1fr_72px] items-end gap-x-2">
          <PickList
            label="Black begins"
            :model-value="ending.sound ?? NONE"
            :options="sounds"
            up
            @update:model-value="change({ sound: $event || undefined })"
          />
          <NumberField
            label="Tail, s"
            :min="0"
            step="any"
            :digits="2"
            :value="ending.tail ?? 1"
            @change="change({ tail: $event })"
          />
        </div>
        <button class="btn justify-center" @click="edit.run({ do: 'open-end' })">
          End with the last clip
        </button>
      </template>
    </div>
  </details>
</template>
