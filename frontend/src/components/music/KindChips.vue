<script setup lang="ts">
/** One chip for each kind of cue that the song has, on or off. */
import type { CueKind } from '@/api/client'
import { CUE_SHAPES, CUE_TOKENS } from '@/lib/cues'
import { useMusic } from '@/stores/music'

defineProps<{ label: string; on: (kind: CueKind) => boolean }>()
defineEmits<{ toggle: [kind: CueKind] }>()
const music = useMusic()
</script>

<template>
  <div role="group" :aria-label="label" class="flex flex-wrap gap-1">
    <button
      v-for="kind in music.lanes"
      :key="kind"
      class="flex items-center gap-1 rounded-full border px-2 py-0.5 text-[12px]"
      :class="on(kind) ? 'border-paper-line bg-paper text-ink' : 'border-line text-muted line-through'"
      :aria-pressed="on(kind)"
      @click="$emit('toggle', kind)"
    >
      <svg width="10" height="10" viewBox="0 0 12 12" aria-hidden="true">
        <path :d="CUE_SHAPES[kind]" :fill="on(kind) ? `var(--${CUE_TOKENS[kind]})` : 'currentColor'" />
      </svg>
      {{ kind }}
    </button>
  </div>
</template>
