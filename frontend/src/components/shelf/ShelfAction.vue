<script setup lang="ts">
/** What one can do about a file on the shelf besides choosing it: stop its reading, read it again, put it away. */
import { RotateCw, Square, Trash2 } from '@lucide/vue'
import { computed } from 'vue'
import type { Asset } from '@/api/client'
import { useLibrary } from '@/stores/library'

const props = defineProps<{ asset: Asset; used: boolean }>()
const library = useLibrary()
const reading = computed(() => library.reading(props.asset))
const listening = computed(() =>
  props.asset.kind === 'song' ? library.listeningTo(props.asset.sha256) : undefined,
)
const job = computed(() => reading.value ?? listening.value)
</script>

<template>
  <button
    v-if="job"
    class="btn m-1 shrink-0 px-1.5!"
    :aria-label="`Stop ${reading ? 'reading' : 'listening to'} ${asset.name}`"
    :title="reading ? 'Stop reading' : 'Stop listening'"
    @click="library.cancel(job)"
  >
    <Square :size="12" />
  </button>
  <button
    v-else-if="asset.state === 'failed'"
    class="btn m-1 shrink-0 px-1.5!"
    :aria-label="`Read ${asset.name} again`"
    title="Read again"
    @click="library.retry(asset)"
  >
    <RotateCw :size="14" />
  </button>
  <button
    v-if="!job && !used"
    class="btn absolute right-1 bottom-0.5 size-6! p-0! opacity-0 group-hover:opacity-100 focus-visible:opacity-100"
    :class="asset.state === 'failed' ? 'opacity-100!' : ''"
    :aria-label="`Take ${asset.name} off the shelf`"
    title="Off the shelf; it can be put back"
    @click="library.toBin(asset)"
  >
    <Trash2 :size="13" />
  </button>
</template>
