<script setup lang="ts">
import { History, Keyboard, Moon, Redo2, Sun, Undo2 } from '@lucide/vue'
import { computed, nextTick } from 'vue'
import { rate } from '@/lib/format'
import { vTyped } from '@/lib/typing'
import { useEdit } from '@/stores/edit'
import { DESKS, useLayout } from '@/stores/layout'
import { useView } from '@/stores/view'

defineEmits<{ export: []; keys: []; history: [] }>()
const edit = useEdit()
const layout = useLayout()
const view = useView()
const landed = computed(() => edit.landings.filter((landing) => landing.exact).length)
const ties = computed(() => edit.landings.length)
const loose = computed(() => edit.derived?.loose.length ?? 0)

/** Go to the loose tie after the one that is selected; they are listed on the clip desk. */
function toLoose(): void {
  const ties = edit.derived?.loose ?? []
  const { selection } = view
  const at = ties.findIndex(
    (tie) => selection.kind === 'pin' && tie.clip === selection.clip && tie.pin === selection.pin,
  )
  const next = ties[(at + 1) % ties.length]
  layout.desk = 'clip'
  if (next) void nextTick(() => view.goToPin(next.clip, next.pin))
}

/** Arrow keys go from tab to tab, as the pattern for tabs asks. */
function toDesk(event: KeyboardEvent): void {
  const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key]
  if (!by) return
  const at = DESKS.indexOf(layout.desk)
  const next = DESKS[(at + by + DESKS.length) % DESKS.length]!
  layout.desk = next
  document.getElementById(`tab-${next}`)?.focus()
  event.preventDefault()
  event.stopPropagation()
}

function rename(event: Event): void {
  const title = (event.target as HTMLInputElement).value.trim()
  if (title && title !== edit.edit?.title) void edit.run({ do: 'configure', title })
}
</script>

<template>
  <header class="flex min-h-11 flex-wrap items-center gap-x-3 gap-y-1 px-3 py-1">
    <RouterLink to="/" class="text-[17px] font-bold text-brass" title="All edits">Izmet</RouterLink>
    <input
      v-if="edit.edit"
      v-typed="edit.edit.title"
      class="field-sizing-content max-w-72 min-w-24 rounded bg-transparent px-1 text-[15px] hover:bg-panel focus:bg-panel"
      aria-label="Title of the edit"
      @change="rename"
    />
    <span v-if="edit.edit" class="num text-muted max-[1399px]:hidden">
      {{ rate(edit.edit.rate) }} · {{ edit.edit.width }}×{{ edit.edit.height }}
    </span>
    <div
      role="tablist"
      aria-label="Desk"
      class="ml-2 grid grid-cols-4 gap-1 rounded-md bg-panel p-0.5"
      @keydown="toDesk"
    >
      <button
        v-for="desk in DESKS"
        :id="`tab-${desk}`"
        :key="desk"
        role="tab"
        aria-controls="desk"
        :tabindex="layout.desk === desk ? 0 : -1"
        class="rounded px-3 py-1 capitalize"
        :class="layout.desk === desk ? 'bg-raised font-semibold' : 'text-muted'"
        :aria-selected="layout.desk === desk"
        title="Change desks (M)"
        @click="layout.desk = desk"
      >
        {{ desk }}
      </button>
    </div>
    <span class="flex-1" />
    <span v-if="edit.saving" class="text-muted" role="status">Saving…</span>
    <span class="flex gap-3" role="status" aria-label="Landings">
      <span
        v-if="ties"
        class="rounded-full bg-panel px-3 py-1 font-semibold"
        :class="landed === ties ? 'text-good' : 'text-bad'"
      >
        {{ landed }} of {{ ties }} land
      </span>
      <button
        v-if="loose"
        class="rounded-full bg-panel px-3 py-1 font-semibold text-bad underline decoration-dotted hover:bg-raised"
        title="Go to the next loose tie"
        @click="toLoose"
      >
        {{ loose }} loose
      </button>
    </span>
    <button
      class="btn"
      :disabled="!edit.state?.can_undo"
      aria-label="Undo"
      title="Undo (Ctrl Z)"
      @click="edit.undo()"
    >
      <Undo2 :size="16" /><span class="max-[1099px]:hidden">Undo</span>
    </button>
    <button
      class="btn"
      :disabled="!edit.state?.can_redo"
      aria-label="Redo"
      title="Redo (Ctrl Shift Z)"
      @click="edit.redo()"
    >
      <Redo2 :size="16" /><span class="max-[1099px]:hidden">Redo</span>
    </button>
    <button class="btn" aria-label="History" title="All that was done" @click="$emit('history')">
      <History :size="16" />
    </button>
    <button class="btn" aria-label="Keys" title="All keys (/)" @click="$emit('keys')">
      <Keyboard :size="16" />
    </button>
    <button
      class="btn"
      :aria-label="layout.theme === 'dark' ? 'Light theme' : 'Dark theme'"
      @click="layout.theme = layout.theme === 'dark' ? 'light' : 'dark'"
    >
      <Sun v-if="layout.theme === 'dark'" :size="16" /><Moon v-else :size="16" />
    </button>
    <button class="btn btn-main px-5" :disabled="!edit.clips.length" @click="$emit('export')">Export</button>
  </header>
</template>
