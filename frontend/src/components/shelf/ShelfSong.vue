<script setup lang="ts">
/** A song on the shelf, and what listening to it has told so far. */
import { Music } from '@lucide/vue'
import { computed } from 'vue'
import type { Asset, SongFacts } from '@/api/client'
import AssetStatus from '@/components/AssetStatus.vue'
import FileName from '@/components/FileName.vue'
import { progress, seconds } from '@/lib/format'
import { useLibrary } from '@/stores/library'
import { useShelf } from '@/stores/shelf'
import ShelfAction from './ShelfAction.vue'

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
  <div
    class="group relative -my-0.5 flex items-center rounded-md"
    :class="mine ? 'bg-raised ring-1 ring-brass' : 'hover:bg-raised'"
  >
    <button
      class="flex min-h-7 min-w-0 flex-1 flex-wrap items-center gap-x-1.5 px-1 text-left"
      :disabled="!facts"
      :aria-pressed="mine"
      :title="facts ? `${asset.name}, ${seconds(facts.duration)}` : asset.name"
      @click="$emit('choose')"
    >
      <Music :size="14" class="shrink-0 text-brass" aria-hidden="true" />
      <FileName class="min-w-0 flex-1 font-semibold" :name="asset.name" />
      <AssetStatus :asset="asset">
        <span class="num shrink-0 text-[11px] text-muted">{{ heard }}</span>
      </AssetStatus>
    </button>
    <ShelfAction :asset="asset" :used="mine" />
  </div>
</template>
