<script setup lang="ts">
/** One edit in the list of all: opened, renamed, duplicated, thrown away. */
import { Copy, Pencil, Trash2 } from '@lucide/vue'
import { nextTick, ref, useTemplateRef } from 'vue'
import { frameOf, type Schemas } from '@/api/client'
import { ago, rate, seconds } from '@/lib/format'

const props = defineProps<{ edit: Schemas['EditSummary'] }>()
const emit = defineEmits<{ rename: [title: string]; duplicate: []; remove: [] }>()
const renaming = ref(false)
const title = ref('')
const field = useTemplateRef('field')
const buttons = useTemplateRef('buttons')
const acts = [
  { word: 'Rename', about: 'Another title', icon: Pencil, run: begin },
  { word: 'Duplicate', about: 'One more like this', icon: Copy, run: () => emit('duplicate') },
  { word: 'Delete', about: 'Into the bin', icon: Trash2, run: () => emit('remove') },
]

async function begin(): Promise<void> {
  title.value = props.edit.title
  renaming.value = true
  await nextTick()
  field.value?.select()
}

/** The focus goes back to where it came from; a title is kept when its field is left. */
const leave = () => buttons.value?.[0]?.focus()

function keep(): void {
  renaming.value = false
  const kept = title.value.trim()
  if (kept && kept !== props.edit.title) emit('rename', kept)
}
</script>

<template>
  <li class="flex items-center gap-2">
    <component
      :is="renaming ? 'div' : 'RouterLink'"
      :to="renaming ? undefined : `/edits/${edit.id}`"
      class="flex min-w-0 flex-1 items-center gap-3 rounded-lg bg-panel p-2 pr-4 hover:bg-raised"
    >
      <span class="h-[45px] w-[80px] shrink-0 overflow-hidden rounded bg-ground">
        <img
          v-if="edit.picture"
          class="h-full w-full object-cover"
          alt=""
          :src="`${frameOf(edit.picture.sha256, edit.picture.frame)}?poster=true`"
          @error="($event.target as HTMLElement).hidden = true"
        />
      </span>
      <span class="min-w-0 flex-1">
        <input
          v-if="renaming"
          ref="field"
          v-model="title"
          class="field text-[15px] font-semibold"
          aria-label="New title"
          maxlength="200"
          @blur="keep"
          @keydown.enter.prevent="leave"
          @keydown.esc.prevent="((title = edit.title), leave())"
        />
        <template v-else>
          <span class="block truncate text-[15px] font-semibold">{{ edit.title }}</span>
          <span class="block text-[12px] text-muted">changed {{ ago(edit.changed) }}</span>
        </template>
      </span>
      <span class="num text-muted">{{ rate(edit.rate) }}</span>
      <span class="num w-16 text-right text-muted"
        >{{ edit.clips }} {{ edit.clips === 1 ? 'clip' : 'clips' }}</span
      >
      <span class="num w-12 text-right text-muted">{{ seconds(edit.seconds).slice(0, -4) }}</span>
    </component>
    <button
      v-for="act in acts"
      :key="act.word"
      ref="buttons"
      class="btn"
      :aria-label="`${act.word} ${edit.title}`"
      :title="act.about"
      @click="act.run"
    >
      <component :is="act.icon" :size="16" />
    </button>
  </li>
</template>
