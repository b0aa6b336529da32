<script setup lang="ts">
/** The playhead's time; ten times a second is all one can read. */
import { refThrottled } from '@vueuse/core'
import { toRef } from 'vue'
import { seconds } from '@/lib/format'
import { useView } from '@/stores/view'

const view = useView()
const shown = refThrottled(toRef(view, 'playhead'), 100, true, true)
</script>

<template>
  <span class="num h-5 w-20 shrink-0 text-center font-semibold [contain:strict]" aria-label="Playhead">{{
    seconds(shown)
  }}</span>
</template>
