<script setup lang="ts">
/** Which way to count is right, where that is not sure: each is heard as clicks at its key, one is taken. */
import { computed } from 'vue'
import type { Beats } from '@/api/client'
import { wayNames } from '@/lib/relations'
import { useListening } from '@/stores/listening'
import { useMusic } from '@/stores/music'

defineEmits<{ take: [way: Beats] }>()
const music = useMusic()
const listening = useListening()
const names = computed(() => wayNames(music.ways))
</script>

<template>
  <section class="flex flex-col gap-1 rounded border border-brass/50 p-2" aria-label="Which is the beat?">
    <h3 class="heading">Which is the beat?</h3>
    <p class="text-[12px] text-muted">Not sure. Press a number to hear its beats as clicks.</p>
    <button
      v-for="(way, i) in music.ways"
      :key="i"
      class="flex items-baseline gap-2 rounded px-1 py-1 text-left hover:bg-raised"
      :class="listening.tried === way ? 'bg-raised' : ''"
      :aria-pressed="listening.tried === way"
      @click="music.tryWay(i)"
    >
      <kbd class="num rounded bg-ground px-1.5">{{ i + 1 }}</kbd>
      <span class="flex-1">{{ names[i] }}</span>
      <span class="num text-muted">{{ way.tempo.toFixed(1) }}</span>
    </button>
    <button
      class="btn btn-main justify-center"
      :disabled="!listening.tried"
      @click="listening.tried && $emit('take', listening.tried)"
    >
      Take this one
    </button>
  </section>
</template>
