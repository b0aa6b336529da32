<script setup lang="ts">
/** Some accents, one under the other: off and on, taken away; the one at hand opened. */
import { Trash2 } from '@lucide/vue'
import { nextTick, useTemplateRef, watch } from 'vue'
import RowAction from '@/components/RowAction.vue'
import { accentName, placeSaid, type Accent } from '@/lib/accents'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'
import AccentFields from './AccentFields.vue'

const props = defineProps<{ accents: Accent[] }>()
const edit = useEdit()
const view = useView()
const said = ({ at }: Accent) => placeSaid(at, edit.song?.selections ?? [])
const isOpen = ({ id }: Accent) => view.accent === id || props.accents.length === 1
/** The one at hand comes into view, wherever it was chosen. */
const rows = useTemplateRef<HTMLElement>('rows')
watch(
  () => [view.accent, props.accents.length],
  async () => {
    await nextTick()
    rows.value?.querySelector('[data-chosen=true]')?.scrollIntoView({ block: 'nearest' })
  },
  { immediate: true },
)
function opened(event: Event, id: string): void {
  if ((event.target as HTMLDetailsElement).open) view.accent = id
  else if (view.accent === id) view.accent = null
}
</script>

<template>
  <ul ref="rows" class="flex flex-col gap-1">
    <li
      v-for="accent in accents"
      :key="accent.id"
      class="rounded-md bg-raised px-2 py-0.5"
      :data-chosen="view.accent === accent.id"
      role="group"
      :aria-label="`${accentName(accent.what.kind)} ${said(accent)}`"
    >
      <div class="flex items-center gap-1">
        <label class="flex min-w-0 flex-1 items-center gap-2">
          <input
            type="checkbox"
            class="accent-brass"
            :checked="accent.on"
            @change="
              edit.run({
                do: 'change-accent',
                accent: accent.id,
                works: ($event.target as HTMLInputElement).checked,
              })
            "
          />
          <span class="truncate font-semibold">{{ accentName(accent.what.kind) }}</span>
        </label>
        <RowAction
          :label="`Remove the ${accent.what.kind}`"
          @click="edit.run({ do: 'remove-accent', accent: accent.id })"
        >
          <Trash2 :size="14" />
        </RowAction>
      </div>
      <details :open="isOpen(accent)" @toggle="opened($event, accent.id)">
        <summary class="-mt-1 cursor-pointer text-[12px] leading-6 text-muted">{{ said(accent) }}</summary>
        <AccentFields class="mt-1" :accent="accent" />
      </details>
    </li>
  </ul>
</template>
