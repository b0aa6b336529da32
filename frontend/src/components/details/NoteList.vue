<script setup lang="ts">
/** What people say of the edit: each at its instant; another one, and those of a file that was sent back. */
import { Trash2 } from '@lucide/vue'
import { ref } from 'vue'
import RowAction from '@/components/RowAction.vue'
import { seconds } from '@/lib/format'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'

const edit = useEdit()
const view = useView()
const text = ref('')
const file = ref<HTMLInputElement | null>(null)

async function add(): Promise<void> {
  const said = text.value.trim()
  const time = edit.clock.time(view.frame)
  if (said && (await edit.run({ do: 'add-notes', notes: [{ time, text: said }] }))) text.value = ''
}
async function bring(): Promise<void> {
  const picked = file.value?.files?.[0]
  if (picked) await edit.bringNotes(picked)
  file.value!.value = ''
}
</script>

<template>
  <details :open="edit.notes.length > 0">
    <summary class="heading cursor-pointer">Notes</summary>
    <div class="mt-1 flex flex-col gap-1">
      <ul v-if="edit.notes.length" class="flex flex-col gap-1" aria-label="Notes">
        <li v-for="note in edit.notes" :key="note.id" class="flex items-start gap-1">
          <button
            class="flex min-w-0 flex-1 flex-col rounded-md bg-raised px-2 py-1 text-left"
            @click="view.seek(note.time)"
          >
            <span>{{ note.text }}</span>
            <span class="num text-[12px] text-muted">
              {{ seconds(note.time) }}<template v-if="note.by">, {{ note.by }}</template>
            </span>
          </button>
          <RowAction
            :label="`Remove the note ${note.text}`"
            @click="edit.run({ do: 'remove-note', note: note.id })"
          >
            <Trash2 :size="14" />
          </RowAction>
        </li>
      </ul>
      <form class="grid grid-cols-[1fr_auto] gap-1" @submit.prevent="add">
        <input v-model="text" class="field" aria-label="Note here" placeholder="Note here" />
        <button class="btn">Note</button>
      </form>
      <button class="btn justify-center" @click="file?.click()">Bring in notes of a review page</button>
      <input
        ref="file"
        class="hidden"
        type="file"
        accept=".json,application/json"
        aria-label="File of notes"
        @change="bring"
      />
    </div>
  </details>
</template>
