<script setup lang="ts">
/** A song on the shelf, and what listening to it has told so far. */
import { Music } from '@lucide/vue'
import { computed } from 'vue'
import type { Asset, SongFacts } from '@/api/client'
import { progress, seconds } from '@/lib/format'
import { useLibrary } from '@/stores/library'
import { useShelf } from '@/stores/shelf'
import ShelfRow from './ShelfRow.vue'

const props = defineProps<{ asset: Asset }>()
defineEmits<{ choose: [] }>()
const library = useLibrary()
const shelf = useShelf()
const facts = computed(() => (props.asset.state === 'ready' ? (props.asset.facts as SongFacts) : null))
const mine = computed(() => shelf.isSong(props.asset))
const heard = computed(() => {
  const job = library.listeningTo(props.asset.sha256)
  if (job) return job.total ? `listening, ${progress(job)}` : 'listening…'
  return facts.value?.tempo ? `${Math.round(facts.value.tempo)} bpm` : 'no pulse'
})
</script>

<template>
  <ShelfRow
    :asset="asset"
    :name="asset.name"
    :mine="mine"
    :used="mine"
    :about="facts ? `${asset.name}, ${seconds(facts.duration)}` : asset.name"
    @choose="$emit('choose')"
  >
    <template #sign><Music :size="14" class="shrink-0 text-brass" aria-hidden="true" /></template>
    <template #facts
      ><span class="num shrink-0 text-[11px] text-muted">{{ heard }}</span></template
    >
  </ShelfRow>
</template>
