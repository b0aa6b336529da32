<script setup lang="ts">
import { onMounted, provide, ref, watch } from 'vue'
import DetailsPanel from '@/components/details/DetailsPanel.vue'
import ExportDialog from '@/components/ExportDialog.vue'
import KeysDialog from '@/components/KeysDialog.vue'
import LandingCard from '@/components/LandingCard.vue'
import Neighbours from '@/components/Neighbours.vue'
import PictureView from '@/components/PictureView.vue'
import PlayheadLine from '@/components/rails/PlayheadLine.vue'
import ClipLane from '@/components/rails/ClipLane.vue'
import MusicRail from '@/components/rails/MusicRail.vue'
import PictureRail from '@/components/rails/PictureRail.vue'
import SmoothStrip from '@/components/rails/SmoothStrip.vue'
import SpeedLane from '@/components/rails/SpeedLane.vue'
import TiesBand from '@/components/rails/TiesBand.vue'
import Shelf from '@/components/Shelf.vue'
import TopBar from '@/components/TopBar.vue'
import TransportBar from '@/components/TransportBar.vue'
import { PLAYBACK, SCREEN } from '@/composables/keys'
import { useDeskKeys } from '@/composables/useDeskKeys'
import { useEvents } from '@/composables/useEvents'
import { usePlayback } from '@/composables/usePlayback'
import { useTaps } from '@/composables/useTaps'
import { useEdit } from '@/stores/edit'
import { useLibrary } from '@/stores/library'
import { useMusic } from '@/stores/music'
import { useNotices } from '@/stores/notices'
import { useView } from '@/stores/view'

const props = defineProps<{ id: number }>()
const edit = useEdit()
const view = useView()
const library = useLibrary()
const notices = useNotices()
const music = useMusic()
const screen: { show: (bitmap: ImageBitmap | null) => void } = { show: () => undefined }
const playback = usePlayback((bitmap) => screen.show(bitmap))
provide(PLAYBACK, playback)
provide(SCREEN, screen)

const exporting = ref(false)
const showingKeys = ref(false)
const opened = ref(false)
const neighbours = ref<InstanceType<typeof Neighbours> | null>(null)

async function begin(): Promise<void> {
  await Promise.all([edit.open(props.id), library.load()])
  const clip = edit.clips[edit.clips.length - 1]
  view.choose(clip?.take ?? edit.takes[0]?.id ?? null)
  view.fit()
  const drop =
    edit.derived?.landings.find((landing) => landing.cue_kind === 'drop') ?? edit.derived?.landings[0]
  view.seekFrame(drop?.wanted_frame ?? 0)
  opened.value = true
}
onMounted(() => notices.guard(begin()))
useEvents(props.id)
watch(
  () => edit.edit?.title,
  (title) => (document.title = title ? `${title} · Izmet` : 'Izmet'),
)

const { taps, tap } = useTaps(playback)
useDeskKeys({
  playback,
  tap,
  markImpact: () => neighbours.value?.mark('impact'),
  showKeys: () => (showingKeys.value = true),
  busy: () => exporting.value || showingKeys.value,
})
</script>

<template>
  <div class="grid h-full grid-rows-[auto_1fr]">
    <TopBar @export="exporting = true" @keys="showingKeys = true" />
    <main class="grid min-h-0 grid-cols-[212px_minmax(0,1fr)_252px] gap-2 px-2 pb-2">
      <Shelf />
      <div class="flex min-h-0 min-w-0 flex-col">
        <div class="grid h-[244px] min-h-0 shrink-0 grid-cols-[minmax(0,11fr)_minmax(0,10fr)] gap-3">
          <PictureView />
          <div class="flex min-h-0 min-w-0 flex-col justify-between gap-2">
            <Neighbours ref="neighbours" />
            <LandingCard />
          </div>
        </div>
        <div v-if="opened" class="relative mt-2 flex min-h-0 flex-1 flex-col">
          <template v-if="music.desk === 'clip'">
            <PictureRail />
            <TiesBand />
          </template>
          <div class="relative flex min-h-0 flex-1 flex-col gap-1">
            <template v-if="music.desk === 'clip'">
              <ClipLane />
              <div>
                <SpeedLane />
                <SmoothStrip />
              </div>
            </template>
            <MusicRail class="flex-1" />
            <PlayheadLine />
          </div>
        </div>
        <TransportBar class="mt-1" :taps="taps.length" @tap="tap" />
      </div>
      <DetailsPanel />
    </main>
    <ExportDialog :open="exporting" @close="exporting = false" />
    <KeysDialog :open="showingKeys" @close="showingKeys = false" />
  </div>
</template>
