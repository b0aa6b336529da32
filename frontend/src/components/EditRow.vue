<script setup lang="ts">
/** One edit in the list of all: opened, renamed, duplicated, thrown away. */
import { Copy, Pencil, Trash2 } from '@lucide/vue'
import { nextTick, ref, useTemplateRef } from 'vue'
import { frameOf, type Schemas } from '@/api/client'
import { ago, rate, seconds } from '@/lib/format'

const props = defineProps<{ edit: Schemas['EditSummary'] }>()
const emit = defineEmits<{ rename: [title: string]; duplicate: []; remove: [] }>()
const renaming = ref(false)
const field = useTemplateRef('field')
const pencil = useTemplateRef('pencil')

async function begin(): Promise<void> {
  renaming.value = true
  await nextTick()
  field.value?.select()
}

function finish(event: Event): void {
  if (!renaming.value) return
  renaming.value = false
  const title = (event.target as HTMLInputElement).value.trim()
  if (title && title !== props.edit.title) emit('rename', title)
}

async function back(): Promise<void> {
  await nextTick()
  pencil.value?.focus()
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
          class="field text-[15px] font-semibold"
          aria-label="New title"
          maxlength="200"
          :value="edit.title"
          @change="finish"
          @blur="finish"
          @keydown.enter.prevent="(finish($event), back())"
          @keydown.esc.prevent="((renaming = false), back())"
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
      ref="pencil"
      class="btn"
      :aria-label="`Rename ${edit.title}`"
      title="Another title"
      @click="begin"
    >
      <Pencil :size="16" />
    </button>
    <button
      class="btn"
      :aria-label="`Duplicate ${edit.title}`"
      title="One more like this"
      @click="emit('duplicate')"
    >
      <Copy :size="16" />
    </button>
    <button class="btn" :aria-label="`Delete ${edit.title}`" title="Into the bin" @click="emit('remove')">
      <Trash2 :size="16" />
    </button>
  </li>
</template>
