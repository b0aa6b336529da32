<script setup lang="ts">
import { Bell, BellOff, Maximize2, Pause, Play, StepBack, StepForward, ZoomIn, ZoomOut } from '@lucide/vue'
import { computed, inject } from 'vue'
import PlaybackHealth from '@/components/PlaybackHealth.vue'
import PlayheadTime from '@/components/PlayheadTime.vue'
import PickList from '@/components/controls/PickList.vue'
import { PLAYBACK } from '@/composables/keys'
import { kindOption } from '@/lib/cues'
import { CUE_KINDS } from '@/lib/terms'
import { counted } from '@/lib/format'
import { useEdit } from '@/stores/edit'
import { useListening } from '@/stores/listening'
import { useView } from '@/stores/view'

defineProps<{ taps: number }>()
defineEmits<{ tap: [] }>()
const edit = useEdit()
const view = useView()
const listening = useListening()
const playback = inject(PLAYBACK)!
const middle = computed(() => (view.from + view.to) / 2)
const kinds = CUE_KINDS.map(kindOption)
</script>

<template>
  <div
    class="flex min-h-9 flex-wrap items-center gap-x-2 gap-y-1 whitespace-nowrap [&>button]:shrink-0"
    role="toolbar"
    aria-label="Playing"
  >
    <button class="btn btn-main w-24 justify-center" title="Space" @click="playback.toggle()">
      <component :is="playback.stats.playing ? Pause : Play" :size="16" />
      {{ playback.stats.playing ? 'Pause' : 'Play' }}
    </button>
    <button
      class="btn"
      aria-label="One frame back"
      title="Left arrow"
      @click="view.seekFrame(view.frame - 1)"
    >
      <StepBack :size="15" />
    </button>
    <button class="btn" aria-label="One frame on" title="Right arrow" @click="view.seekFrame(view.frame + 1)">
      <StepForward :size="15" />
    </button>
    <PlayheadTime />
    <button class="btn" :disabled="!edit.song" title="Set a cue here (T)" @click="$emit('tap')">
      Set cue
    </button>
    <PickList
      v-model="listening.tap.kind"
      class="w-28 min-w-16"
      label="Kind of new cues"
      hide-label
      up
      :options="kinds"
    />
    <button
      class="btn"
      :aria-pressed="listening.clicks"
      title="Hear the cues as clicks (C)"
      @click="listening.clicks = !listening.clicks"
    >
      <component
        :is="listening.clicks ? Bell : BellOff"
        :size="15"
        :class="listening.clicks ? 'text-brass' : 'text-muted'"
      />
      Clicks
    </button>
    <span v-if="listening.slowness > 1" class="num text-brass">1/{{ listening.slowness }}</span>
    <span class="flex-1" />
    <span v-if="taps" class="num text-brass" role="status">{{ counted(taps, 'tap') }}</span>
    <PlaybackHealth v-show="!taps" />
    <button class="btn" aria-label="Zoom out" title="−" @click="view.zoom(1.5, middle)">
      <ZoomOut :size="15" />
    </button>
    <button class="btn" aria-label="Zoom in" title="+" @click="view.zoom(1 / 1.5, middle)">
      <ZoomIn :size="15" />
    </button>
    <button class="btn" title="Show the whole clip (F)" @click="view.fit()">
      <Maximize2 :size="15" />Fit
    </button>
  </div>
</template>
