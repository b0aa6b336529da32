<script setup lang="ts">
/** What is set on the picture itself, over it. */
import { computed } from 'vue'
import type { Box } from '@/lib/composer'
import { useEdit } from '@/stores/edit'
import { useOnPicture } from '@/stores/onPicture'
import AccentPoint from './AccentPoint.vue'
import BackgroundEye from './BackgroundEye.vue'
import FramingHandles from './FramingHandles.vue'
import InsetHandles from './InsetHandles.vue'
import RevealHandles from './RevealHandles.vue'
import TitlePlace from './TitlePlace.vue'
import TrackPoints from './TrackPoints.vue'

defineProps<{ box: Box }>()
const edit = useEdit()
const onPicture = useOnPicture()
const tool = computed(() => onPicture.tool)
const clip = computed(() =>
  tool.value && 'clip' in tool.value ? edit.clipById.get(tool.value.clip) : undefined,
)
</script>

<template>
  <div
    v-if="tool"
    class="absolute inset-0"
    role="group"
    aria-label="On the picture"
    @keydown.escape.stop="onPicture.close()"
  >
    <TrackPoints v-if="tool.kind === 'point'" :box="box" :take="tool.take" :track="tool.track" />
    <AccentPoint v-else-if="tool.kind === 'accent'" :box="box" :accent="tool.accent" />
    <TitlePlace v-else-if="tool.kind === 'title'" :box="box" :title="tool.title" />
    <template v-else-if="clip">
      <FramingHandles v-if="tool.kind === 'framing'" :box="box" :clip="clip" />
      <InsetHandles v-else-if="tool.kind === 'inset' && clip.inset" :box="box" :clip="clip" />
      <BackgroundEye v-else-if="tool.kind === 'background'" :box="box" :clip="clip" />
      <RevealHandles v-else-if="tool.kind === 'reveal' && clip.overlap" :box="box" :clip="clip" />
    </template>
  </div>
</template>
