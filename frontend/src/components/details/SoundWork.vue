<script setup lang="ts">
/** Sounds at one place: what is laid there, and what can be. */
import { computed, ref } from 'vue'
import PickList from '@/components/controls/PickList.vue'
import { standsAt, type Anchor } from '@/lib/accents'
import { fileName } from '@/lib/names'
import { MADE, type MadeKind } from '@/lib/sounds'
import { useEdit } from '@/stores/edit'
import { useLibrary } from '@/stores/library'
import { useView } from '@/stores/view'
import SoundRows from './SoundRows.vue'

const props = defineProps<{ at: Anchor; heading?: boolean }>()
const edit = useEdit()
const view = useView()
const library = useLibrary()
const here = computed(() => edit.sounds.filter((sound) => standsAt(sound.at, props.at)))
const NONE = ''
const file = ref(NONE)
const files = computed(() => [
  { value: NONE, text: 'choose a file' },
  ...library.songs
    .filter(({ state }) => state === 'ready')
    .map(({ sha256, name }) => ({ value: sha256, text: fileName(name) })),
])

/** Lay one, and have it at hand. */
async function lay(laying: () => Promise<boolean>): Promise<void> {
  const known = new Set(edit.sounds.map(({ id }) => id))
  await laying()
  view.sound = edit.sounds.find(({ id }) => !known.has(id))?.id ?? view.sound
}
const add = ({ name, length, unit }: MadeKind) =>
  lay(() => edit.run({ do: 'add-sound', at: props.at, what: { kind: 'made', name, length, unit } }))
const addFile = () => lay(() => edit.laySound(file.value, props.at)).then(() => (file.value = NONE))
</script>

<template>
  <div class="flex flex-col gap-2" role="group" aria-label="Sounds here">
    <SoundRows v-if="here.length" :sounds="here" />
    <details>
      <summary class="cursor-pointer leading-6" :class="heading ? 'heading' : 'text-muted'">
        Add a sound
      </summary>
      <div class="mt-1 flex flex-col gap-2">
        <div class="grid grid-cols-2 gap-1">
          <button
            v-for="kind in MADE"
            :key="kind.name"
            class="btn justify-center"
            :title="kind.what"
            :aria-label="`Sound: ${kind.text}`"
            @click="add(kind)"
          >
            {{ kind.text }}
          </button>
        </div>
        <div class="grid grid-cols-[1fr_auto] items-end gap-1">
          <PickList v-model="file" label="From the shelf" :options="files" up />
          <button class="btn" :disabled="file === NONE" @click="addFile">Lay it</button>
        </div>
      </div>
    </details>
  </div>
</template>
