<script setup lang="ts">
/** What is selected, its numbers, and what can be done about it. */
import { computed } from 'vue'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'
import MusicPanel from '@/components/music/MusicPanel.vue'
import { useLayout } from '@/stores/layout'
import CueDetails from './CueDetails.vue'
import CuesDetails from './CuesDetails.vue'
import EditDetails from './EditDetails.vue'
import MomentDetails from './MomentDetails.vue'
import PinDetails from './PinDetails.vue'
import SpanDetails from './SpanDetails.vue'
import SpanList from './SpanList.vue'
import MontagePanel from '@/components/montage/MontagePanel.vue'
import TakePanel from '@/components/takes/TakePanel.vue'
import type { useMeasures } from '@/composables/useMeasures'
import type { TakeWork } from '@/composables/useTakeWork'

defineProps<{ seen: ReturnType<typeof useMeasures>; work: TakeWork }>()
const edit = useEdit()
const view = useView()
const layout = useLayout()

const cues = computed(() => view.selectedCues.flatMap((id) => edit.cueById.get(id) ?? []))
const moment = computed(() => {
  const selection = view.selection
  return selection.kind === 'moment' && selection.take === view.takeId
    ? view.take?.moments?.find((other) => other.id === selection.moment)
    : undefined
})
const pin = computed(() => {
  const selection = view.selection
  return selection.kind === 'pin' && selection.clip === view.clip?.id
    ? view.clip.pins.find((other) => other.id === selection.pin)
    : undefined
})
const span = computed(() => {
  const selection = view.selection
  const mine = selection.kind === 'span' && selection.clip === view.clip?.id
  return mine && view.clip?.spans[selection.span] ? selection.span : null
})
</script>

<template>
  <aside
    class="flex min-h-0 flex-col gap-3 overflow-y-auto rounded-lg bg-panel p-3"
    aria-label="Details"
    :inert="!!edit.instead"
  >
    <p v-if="edit.instead" class="rounded-md bg-raised p-2 font-semibold text-brass" role="status">
      B is shown, as it was kept. V goes back to A.
    </p>
    <div class="contents" :inert="!!edit.instead">
      <template v-if="layout.desk === 'takes'" />
      <CueDetails v-else-if="cues.length === 1" :key="cues[0]!.id" :cue="cues[0]!" />
      <CuesDetails v-else-if="cues.length" :cues="cues" />
      <MusicPanel v-if="layout.desk === 'music'" />
      <MontagePanel v-else-if="layout.desk === 'montage'" />
      <TakePanel v-else-if="layout.desk === 'takes'" :seen="seen" :work="work" />
      <template v-else>
        <template v-if="!cues.length">
          <MomentDetails v-if="moment" :key="moment.id" :moment="moment" />
          <PinDetails
            v-else-if="pin && view.clip"
            :key="view.clip.id + pin.id"
            :clip="view.clip"
            :pin="pin"
          />
          <SpanDetails v-else-if="span !== null && view.clip" :clip="view.clip" :span="span" />
          <EditDetails v-else />
        </template>
        <SpanList v-if="view.clip" :clip="view.clip" />
      </template>
    </div>
  </aside>
</template>
