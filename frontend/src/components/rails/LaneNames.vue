<script setup lang="ts">
/** The name of each lane at its left end. */
import type { Lane } from '@/lib/lanes'
import { kindName } from '@/lib/terms'
import { useMusic } from '@/stores/music'

defineProps<{ lanes: Lane[] }>()
const music = useMusic()
</script>

<template>
  <span
    v-for="lane in lanes"
    :key="lane.top"
    class="pointer-events-none absolute left-0 w-[92px] truncate px-1.5 text-[11px] leading-none text-ink-muted"
    :style="{ top: `${lane.top + lane.height / 2 - 5}px` }"
    aria-hidden="true"
  >
    {{ kindName(lane.kinds[0]) }} {{ music.counts.get(lane.kinds[0]!) }}
  </span>
</template>
