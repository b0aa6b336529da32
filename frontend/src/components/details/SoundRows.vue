<script setup lang="ts">
/** Some laid sounds, one under the other: off and on, taken away; the one at hand opened. */
import { Trash2 } from '@lucide/vue'
import RowAction from '@/components/RowAction.vue'
import { placeSaid } from '@/lib/accents'
import { soundName, type Sound } from '@/lib/sounds'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'
import SoundFields from './SoundFields.vue'

const props = defineProps<{ sounds: Sound[] }>()
const edit = useEdit()
const view = useView()
const said = ({ at }: Sound) => placeSaid(at, edit.song?.selections ?? [])
const isOpen = ({ id }: Sound) => view.sound === id || props.sounds.length === 1
const checked = (event: Event) => (event.target as HTMLInputElement).checked
function opened(event: Event, id: string): void {
  if ((event.target as HTMLDetailsElement).open) view.sound = id
  else if (view.sound === id) view.sound = null
}
</script>

<template>
  <ul class="flex flex-col gap-1">
    <li
      v-for="sound in sounds"
      :key="sound.id"
      class="rounded-md bg-raised px-2 py-0.5"
      role="group"
      :aria-label="`${soundName(sound)} ${said(sound)}`"
    >
      <div class="flex items-center gap-1">
        <label class="flex min-w-0 flex-1 items-center gap-2">
          <input
            type="checkbox"
            class="accent-brass"
            :checked="sound.on"
            @change="edit.run({ do: 'change-sound', sound: sound.id, works: checked($event) })"
          />
          <span class="truncate font-semibold">{{ soundName(sound) }}</span>
        </label>
        <RowAction
          :label="`Remove ${soundName(sound)}`"
          @click="edit.run({ do: 'remove-sound', sound: sound.id })"
        >
          <Trash2 :size="14" />
        </RowAction>
      </div>
      <details :open="isOpen(sound)" @toggle="opened($event, sound.id)">
        <summary class="-mt-1 cursor-pointer text-[12px] leading-6 text-muted">{{ said(sound) }}</summary>
        <SoundFields class="mt-1" :sound="sound" />
      </details>
    </li>
  </ul>
</template>
