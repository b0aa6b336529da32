<script setup lang="ts">
import { Keyboard, Moon, Redo2, Sun, Undo2 } from '@lucide/vue'
import { computed } from 'vue'
import { rate } from '@/lib/format'
import { useEdit } from '@/stores/edit'
import { useMusic, type Desk } from '@/stores/music'
import { useView } from '@/stores/view'

defineEmits<{ export: []; keys: [] }>()
const edit = useEdit()
const view = useView()
const music = useMusic()
const DESKS: { value: Desk; text: string }[] = [
  { value: 'music', text: 'Music' },
  { value: 'clip', text: 'Clip' },
]
const landed = computed(() => edit.derived?.landings.filter((landing) => landing.exact).length ?? 0)
const ties = computed(() => edit.derived?.landings.length ?? 0)
const loose = computed(() => edit.derived?.loose.length ?? 0)

function rename(event: Event): void {
  const title = (event.target as HTMLInputElement).value.trim()
  if (title && title !== edit.edit?.title) void edit.run({ do: 'configure', title })
}
</script>

<template>
  <header class="flex h-11 items-center gap-3 px-3">
    <RouterLink to="/" class="text-[17px] font-bold text-brass" title="All edits">Izmet</RouterLink>
    <input
      class="field-sizing-content max-w-72 min-w-24 rounded bg-transparent px-1 text-[15px] hover:bg-panel focus:bg-panel"
      aria-label="Title of the edit"
      :value="edit.edit?.title"
      @change="rename"
    />
    <span v-if="edit.edit" class="num text-muted">
      {{ rate(edit.edit.rate) }} · {{ edit.edit.width }}×{{ edit.edit.height }}
    </span>
    <div role="tablist" aria-label="Desk" class="ml-2 grid grid-cols-2 gap-1 rounded-md bg-panel p-0.5">
      <button
        v-for="desk in DESKS"
        :key="desk.value"
        role="tab"
        class="rounded px-4 py-1"
        :class="music.desk === desk.value ? 'bg-raised font-semibold' : 'text-muted'"
        :aria-selected="music.desk === desk.value"
        title="Change desks (M)"
        @click="music.desk = desk.value"
      >
        {{ desk.text }}
      </button>
    </div>
    <span class="flex-1" />
    <span v-if="edit.saving" class="text-muted" role="status">Saving…</span>
    <span
      v-if="ties"
      class="rounded-full bg-panel px-3 py-1 font-semibold"
      :class="landed === ties ? 'text-good' : 'text-bad'"
    >
      {{ landed }} of {{ ties }} land
    </span>
    <span v-if="loose" class="rounded-full bg-panel px-3 py-1 font-semibold text-bad">{{ loose }} loose</span>
    <button
      class="btn"
      :disabled="!edit.state?.can_undo"
      aria-label="Undo"
      title="Undo (Ctrl Z)"
      @click="edit.undo()"
    >
      <Undo2 :size="16" />Undo
    </button>
    <button
      class="btn"
      :disabled="!edit.state?.can_redo"
      aria-label="Redo"
      title="Redo (Ctrl Shift Z)"
      @click="edit.redo()"
    >
      <Redo2 :size="16" />Redo
    </button>
    <button class="btn" aria-label="Keys" title="All keys (/)" @click="$emit('keys')">
      <Keyboard :size="16" />
    </button>
    <button
      class="btn"
      :aria-label="view.theme === 'dark' ? 'Light theme' : 'Dark theme'"
      @click="view.theme = view.theme === 'dark' ? 'light' : 'dark'"
    >
      <Sun v-if="view.theme === 'dark'" :size="16" /><Moon v-else :size="16" />
    </button>
    <button class="btn btn-main px-5" :disabled="!edit.clips.length" @click="$emit('export')">Export</button>
  </header>
</template>
