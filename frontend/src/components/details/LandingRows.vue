<script setup lang="ts">
/** The landings of one clip, a line each. A component of its own: what did not change is not drawn again. */
import { CircleCheck, CircleX } from '@lucide/vue'
import type { DerivedClip } from '@/api/client'
import { signedMs } from '@/lib/format'
import { useView } from '@/stores/view'
import { kindName } from '@/lib/terms'

defineProps<{ clip: DerivedClip }>()
const view = useView()
</script>

<template>
  <button
    v-for="landing in clip.landings"
    :key="landing.pin"
    class="flex items-center gap-2 rounded px-1 py-1 text-left hover:bg-raised"
    @click="view.goToPin(landing.clip, landing.pin)"
  >
    <CircleCheck v-if="landing.exact" :size="16" class="shrink-0 text-good" aria-label="lands" />
    <CircleX v-else :size="16" class="shrink-0 text-bad" aria-label="misses" />
    <span class="min-w-0 flex-1 truncate">{{ landing.label }} on {{ kindName(landing.cue_kind) }}</span>
    <span class="num text-[12px] text-muted">{{
      landing.hidden_by ? 'hidden' : signedMs(landing.residual_ms)
    }}</span>
  </button>
</template>
