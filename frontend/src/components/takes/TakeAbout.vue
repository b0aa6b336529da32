<script setup lang="ts">
/** What a person calls a take, its tags and notes; and taking it out of the edit. */
import { computed } from 'vue'
import type { Take } from '@/api/client'
import { tagsIn } from '@/lib/names'
import { vTyped } from '@/lib/typing'
import { counted } from '@/lib/format'
import { useEdit } from '@/stores/edit'

const props = defineProps<{ take: Take }>()
const edit = useEdit()
const clips = computed(() => edit.clips.filter((clip) => clip.take === props.take.id).length)
const text = (event: Event) => (event.target as HTMLInputElement).value.trim()
const change = (changes: { name?: string; tags?: string[]; notes?: string }) =>
  edit.run({ do: 'change-take', take: props.take.id, ...changes })
</script>

<template>
  <details>
    <summary class="cursor-pointer text-muted">Name, tags, notes</summary>
    <div class="mt-1 flex flex-col gap-1">
      <input
        v-typed="take.media.name"
        class="field"
        aria-label="Name of the take"
        maxlength="200"
        @change="text($event) && change({ name: text($event) })"
      />
      <input
        v-typed="(take.tags ?? []).join(', ')"
        class="field"
        aria-label="Tags of the take"
        placeholder="tags"
        @change="change({ tags: tagsIn(text($event)) })"
      />
      <textarea
        v-typed="take.notes"
        class="field min-h-14 resize-y"
        aria-label="Notes on the take"
        placeholder="notes"
        maxlength="2000"
        @change="change({ notes: text($event) })"
      />
      <button
        class="btn justify-center"
        :title="clips ? `${counted(clips, 'clip')} of it: removed with it` : ''"
        @click="edit.run({ do: 'remove-take', take: take.id, with_clips: true })"
      >
        Remove from the edit{{ clips ? `, with ${clips} ${clips === 1 ? 'clip' : 'clips'}` : '' }}
      </button>
    </div>
  </details>
</template>
