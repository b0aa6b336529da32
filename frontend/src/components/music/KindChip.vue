<script setup lang="ts">
/** A kind of cue, on or off. */
import type { CueKind } from '@/api/client'
import { CUE_SHAPES, CUE_TOKENS } from '@/lib/cues'
import { kindName } from '@/lib/terms'

defineProps<{ kind: CueKind; on: boolean }>()
</script>

<template>
  <button
    class="flex items-center gap-1 rounded-full border px-2 py-0.5 text-[12px]"
    :class="on ? 'border-paper-line bg-paper text-ink' : 'border-line text-muted line-through'"
    :aria-pressed="on"
  >
    <svg width="10" height="10" viewBox="0 0 12 12" aria-hidden="true">
      <path :d="CUE_SHAPES[kind]" :fill="on ? `var(--${CUE_TOKENS[kind]})` : 'currentColor'" />
    </svg>
    {{ kindName(kind) }}
  </button>
</template>
