<script setup lang="ts">
/** One clip on the lane: its name, and choosing it. */
import { computed } from 'vue'
import type { DerivedClip } from '@/api/client'
import type { Axis } from '@/lib/axis'
import { useClipName } from '@/composables/useClipName'
import { useView } from '@/stores/view'

/** `axis` counts output frames. */
const props = defineProps<{ clip: DerivedClip; axis: Axis; width: number }>()
const view = useView()
const nameOf = useClipName()
const name = computed(() => nameOf(props.clip.id))
const chosen = computed(() => view.clip?.id === props.clip.id)
const place = computed(() => {
  // Not beyond the lane: its name stays in sight, and it lies under nothing else.
  const left = Math.max(0, props.axis.x(props.clip.first))
  const end = props.axis.x(props.clip.first + props.clip.source.length)
  return { transform: `translateX(${left}px)`, width: `${Math.max(0, Math.min(props.width, end) - left)}px` }
})
</script>

<template>
  <button
    class="absolute inset-y-0 left-0 truncate px-2 text-left font-semibold text-white"
    :class="chosen ? 'ring-2 ring-brass ring-inset' : ''"
    :style="place"
    :aria-label="`Clip ${name}`"
    :aria-pressed="chosen"
    @click="view.chooseClip(clip.id)"
  >
    <span class="rounded bg-black/45 px-1.5 py-0.5">{{ name }}</span>
  </button>
</template>
