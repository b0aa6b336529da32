<script setup lang="ts">
/** For each kind of cue that the song has: whether its lane is shown, and how loud its click is. */
import RangeTrack from '@/components/controls/RangeTrack.vue'
import { kindName } from '@/lib/terms'
import { useListening } from '@/stores/listening'
import { useMusic } from '@/stores/music'
import KindChip from './KindChip.vue'

const music = useMusic()
const listening = useListening()
</script>

<template>
  <div class="grid grid-cols-[auto_auto_1fr_auto] items-center gap-x-1.5 gap-y-1">
    <template v-for="kind in music.lanes" :key="kind">
      <KindChip
        :kind="kind"
        :on="!music.hidden.has(kind)"
        :aria-label="`Lane of ${kindName(kind)}`"
        :title="music.hidden.has(kind) ? 'Show this lane' : 'Hide this lane'"
        @click="music.toggle(kind)"
      />
      <button
        class="min-h-6 rounded px-1 text-[12px] text-muted underline hover:text-text"
        :aria-label="`Only ${kindName(kind)}`"
        title="This lane alone; again: all of them"
        @click="music.only(kind)"
      >
        only
      </button>
      <RangeTrack
        :label="`Click of ${kindName(kind)}`"
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
