<script setup lang="ts">
/** For each kind of cue that the song has: whether its lane is shown, and how loud its click is. */
import RangeTrack from '@/components/controls/RangeTrack.vue'
import { useListening } from '@/stores/listening'
import { useMusic } from '@/stores/music'
import KindChip from './KindChip.vue'

const music = useMusic()
const listening = useListening()
</script>

<template>
  <div class="grid grid-cols-[auto_1fr_auto] items-center gap-x-2 gap-y-1">
    <template v-for="kind in music.lanes" :key="kind">
      <KindChip
        :kind="kind"
        :on="!music.hidden.has(kind)"
        :aria-label="`Lane of ${kind}`"
        :title="music.hidden.has(kind) ? 'Show this lane' : 'Hide this lane'"
        @click="music.toggle(kind)"
      />
      <RangeTrack
        :label="`Click of ${kind}`"
        :min="0"
        :max="1"
        :step="0.05"
        :disabled="music.hidden.has(kind)"
        :value="listening.levels[kind]"
        @input="listening.levels[kind] = $event"
      />
      <span class="num w-9 text-right text-[12px] text-muted">
        {{ listening.levels[kind] ? `${Math.round(listening.levels[kind] * 100)} %` : 'off' }}
      </span>
    </template>
  </div>
</template>
