<script setup lang="ts">
/** How a file on the shelf is doing: being read, refused, or ready (then the slot). */
import type { Asset } from '@/api/client'
import { progress } from '@/lib/format'
import { useLibrary } from '@/stores/library'

defineProps<{ asset: Asset }>()
const library = useLibrary()

function status(asset: Asset): string {
  const job = library.reading(asset)
  if (!job || job.state === 'queued') return 'waiting…'
  return job.total ? progress(job) : `frame ${job.done}`
}
</script>

<template>
  <slot v-if="asset.state === 'ready'" />
  <span v-else-if="asset.state === 'reading'" class="num shrink-0 text-[11px] text-brass" role="status">{{
    status(asset)
  }}</span>
  <span v-else class="basis-full pb-1 text-[12px] leading-tight text-bad"
    >{{ asset.error?.what }} {{ asset.error?.remedy }}</span
  >
</template>
