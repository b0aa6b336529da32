<script setup lang="ts">
/** What is laid on the edit, one under the other: off and on, taken away; the one at hand opened. */
import { Trash2 } from '@lucide/vue'
import { nextTick, useTemplateRef, watch } from 'vue'
import RowAction from '@/components/RowAction.vue'

interface Laid {
  id: string
  name: string
  /** Its name within a sentence. */
  called: string
  /** Where it stands. */
  said: string
  on?: boolean
}
const props = defineProps<{ laid: Laid[] }>()
const emit = defineEmits<{ works: [id: string, on: boolean]; remove: [id: string] }>()
const chosen = defineModel<string | null>({ required: true })
const isOpen = ({ id }: Laid) => chosen.value === id || props.laid.length === 1
/** The one at hand comes into view, wherever it was chosen. */
const rows = useTemplateRef<HTMLElement>('rows')
watch(
  () => [chosen.value, props.laid.length],
  async () => {
    await nextTick()
    rows.value?.querySelector('[data-chosen=true]')?.scrollIntoView({ block: 'nearest' })
  },
  { immediate: true },
)
function opened(event: Event, id: string): void {
  if ((event.target as HTMLDetailsElement).open) chosen.value = id
  else if (chosen.value === id) chosen.value = null
}
</script>

<template>
  <ul ref="rows" class="flex flex-col gap-1">
    <li
      v-for="each in laid"
      :key="each.id"
      class="rounded-md bg-raised px-2 py-0.5"
      :data-chosen="chosen === each.id"
      role="group"
      :aria-label="`${each.name} ${each.said}`"
    >
      <div class="flex items-center gap-1">
        <label class="flex min-w-0 flex-1 items-center gap-2">
          <input
            type="checkbox"
            class="accent-brass"
            :checked="each.on"
            @change="emit('works', each.id, ($event.target as HTMLInputElement).checked)"
          />
          <span class="truncate font-semibold">{{ each.name }}</span>
        </label>
        <RowAction :label="`Remove the ${each.called}`" @click="emit('remove', each.id)">
          <Trash2 :size="14" />
        </RowAction>
      </div>
      <details :open="isOpen(each)" @toggle="opened($event, each.id)">
        <summary class="-mt-1 cursor-pointer text-[12px] leading-6 text-muted">{{ each.said }}</summary>
        <slot :id="each.id" />
      </details>
    </li>
  </ul>
</template>
