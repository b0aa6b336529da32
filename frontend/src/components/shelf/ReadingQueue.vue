<script setup lang="ts">
/** How much of the shelf is still to be read, and how long that takes. */
import { computed, ref, watchEffect } from 'vue'
import type { Asset } from '@/api/client'
import { about } from '@/lib/format'
import { Pace } from '@/lib/pace'
import { useLibrary } from '@/stores/library'

const library = useLibrary()
const pace = new Pace()
const reading = computed(() => library.assets.filter((asset) => asset.state === 'reading'))

/** What of a file is still to be read, in bytes: what takes longest is larger. */
function bytesLeft(asset: Asset): number {
  const job = library.reading(asset)
  return asset.size * (1 - (job?.total ? job.done / job.total : 0))
}
const left = ref<number | null>(null)
watchEffect(() => {
  const bytes = reading.value.reduce((sum, asset) => sum + bytesLeft(asset), 0)
  left.value = pace.left(performance.now() / 1000, bytes)
})
</script>

<template>
  <p v-if="reading.length" class="num text-brass">
    {{ reading.length }} to read<template v-if="left !== null">, {{ about(left) }} left</template>
  </p>
</template>
