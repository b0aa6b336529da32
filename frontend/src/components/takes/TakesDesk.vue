<script setup lang="ts">
/** Find the frame, mark the moment: pictures around it, and the whole take beneath. */
import { ref } from 'vue'
import HitFinder from './HitFinder.vue'
import TakeRail from './TakeRail.vue'
import type { useLooks } from '@/composables/useLooks'
import type { TakeWork } from '@/composables/useTakeWork'

defineProps<{ seen: ReturnType<typeof useLooks>; work: TakeWork }>()
const rail = ref<InstanceType<typeof TakeRail> | null>(null)
defineExpose({ zoom: (factor: number) => rail.value?.zoom(factor), fit: () => rail.value?.fit() })
</script>

<template>
  <div class="flex min-h-0 flex-1 flex-col gap-2">
    <HitFinder
      :guess="seen.guess.value"
      :looks="seen.looks.value"
      :quiet="Math.abs(work.speed.value) > 0"
      @refine="work.refine"
    />
    <TakeRail
      ref="rail"
      :looks="seen.looks.value"
      :proposals="seen.proposals.value"
      :problem="seen.problem.value"
      :point="work.point.value"
      @again="seen.load"
    />
  </div>
</template>
