<script setup lang="ts">
/** All that was done to the edit, each step in words: to go there, or to name a state and find it again. */
import { ref, shallowRef, watch } from 'vue'
import { api, take, type PastEntry } from '@/api/client'
import DialogFrame from '@/components/DialogFrame.vue'
import { ago } from '@/lib/format'
import { vTyped } from '@/lib/typing'
import { useEdit } from '@/stores/edit'
import { useNotices } from '@/stores/notices'

const props = defineProps<{ open: boolean }>()
const emit = defineEmits<{ close: [] }>()
const edit = useEdit()
const notices = useNotices()
const past = shallowRef<PastEntry[]>([])
const onlyNamed = ref(false)

watch(
  () => [props.open, edit.state?.revision],
  async () => {
    if (!props.open || !edit.state) return
    const path = { id: edit.id }
    const found = await notices.guard(take(api.GET('/api/edits/{id}/history', { params: { path } })))
    past.value = found?.revisions ?? []
  },
)

async function name(entry: PastEntry, event: Event): Promise<void> {
  if (!edit.state) return
  const path = { id: edit.id, revision: entry.number }
  const body = { name: (event.target as HTMLInputElement).value }
  const asked = api.POST('/api/edits/{id}/revisions/{revision}/name', { params: { path }, body })
  const found = await notices.guard(take(asked))
  if (found) past.value = found.revisions
}

async function go(entry: PastEntry): Promise<void> {
  if (await edit.goTo(entry.number)) emit('close')
}
</script>

<template>
  <DialogFrame :open="open" title="All that was done" :width="680" @close="$emit('close')">
    <template #beside>
      <label class="flex items-center gap-2 text-muted">
        <input v-model="onlyNamed" type="checkbox" class="accent-brass" />Named only
      </label>
    </template>
    <p class="text-muted">
      Nothing is lost: going back keeps what came after in this list. A name helps to find a state again.
    </p>
    <ol class="mt-3 min-h-0 flex-1 overflow-y-auto" aria-label="Steps, the newest first">
      <li
        v-for="entry in past.filter((each) => !onlyNamed || each.name)"
        :key="entry.number"
        class="grid grid-cols-[2.5rem_1fr_9rem_6rem_4.5rem] items-center gap-2 rounded px-1 py-1"
        :class="entry.is_current ? 'bg-raised ring-1 ring-brass' : ''"
      >
        <span class="num text-right text-muted">{{ entry.number }}</span>
        <span class="truncate" :title="entry.reason">{{ entry.reason }}</span>
        <input
          v-typed="entry.name ?? ''"
          class="field"
          :aria-label="`Name of step ${entry.number}`"
          placeholder="name it"
          maxlength="60"
          @change="name(entry, $event)"
        />
        <span class="truncate text-[12px] text-muted">{{ ago(entry.created) }}</span>
        <span v-if="entry.is_current" class="text-center font-semibold text-brass">now</span>
        <button v-else class="btn justify-center px-1!" @click="go(entry)">Go here</button>
      </li>
    </ol>
    <p v-if="onlyNamed && !past.some((each) => each.name)" class="text-muted">No state has a name yet.</p>
  </DialogFrame>
</template>
