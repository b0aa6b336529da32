<script setup lang="ts">
/** Find the frame, mark the moment: pictures around it, and the whole take beneath. */
import { ref } from 'vue'
import HitFinder from './HitFinder.vue'
import TakeRail from './TakeRail.vue'
import type { useMeasures } from '@/composables/useMeasures'
import type { TakeWork } from '@/composables/useTakeWork'

defineProps<{ seen: ReturnType<typeof useMeasures>; work: TakeWork }>()
const rail = ref<InstanceType<typeof TakeRail> | null>(null)
defineExpose({ zoom: (factor: number) => rail.value?.zoom(factor), fit: () => rail.value?.fit() })
</script>

<template>
  <div class="flex min-h-0 flex-1 flex-col gap-2">
    <HitFinder
      :guess="seen.guess.value"
      :measures="seen.measures.value"
      :quiet="Math.abs(work.speed.value) > 0"
      @refine="work.refine"
    />
    <TakeRail
      ref="rail"
      :measures="seen.measures.value"
      :proposals="seen.proposals.value"
      :problem="seen.problem.value"
      :point="work.point.value"
      @again="seen.load"
    />
  </div>
</template>
