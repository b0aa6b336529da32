<script setup lang="ts">
/** How well the preview kept time; apart, because it changes with every frame that plays. */
import { inject } from 'vue'
import { PLAYBACK } from '@/composables/keys'

const { stats } = inject(PLAYBACK)!
</script>

<template>
  <span
    v-if="stats.drawn + stats.late > 0"
    class="num h-5 w-16 shrink-0 text-right text-[12px] text-muted [contain:strict]"
    data-testid="playback"
    :data-drawn="stats.drawn"
    :data-late="stats.late"
    :data-drift="stats.drift.toFixed(3)"
  >
    {{ stats.late ? `${stats.late} late` : 'on time' }}
  </span>
</template>
