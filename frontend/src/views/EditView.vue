<script setup lang="ts">
import { useElementSize, useMediaQuery } from '@vueuse/core'
import { computed, onMounted, provide, ref, shallowRef, watch } from 'vue'
import { Failure, type Problem } from '@/api/client'
import DeskBar from '@/components/DeskBar.vue'
import DetailsPanel from '@/components/details/DetailsPanel.vue'
import ExportDialog from '@/components/ExportDialog.vue'
import HistoryDialog from '@/components/HistoryDialog.vue'
import KeysDialog from '@/components/KeysDialog.vue'
import LiveProblem from '@/components/details/LiveProblem.vue'
import LandingCard from '@/components/LandingCard.vue'
import Neighbours from '@/components/Neighbours.vue'
import NoticeList from '@/components/NoticeList.vue'
import PictureView from '@/components/PictureView.vue'
import PlayheadLine from '@/components/rails/PlayheadLine.vue'
import AccentRail from '@/components/rails/AccentRail.vue'
import ClipLane from '@/components/rails/ClipLane.vue'
import MusicRail from '@/components/rails/MusicRail.vue'
import EndShade from '@/components/rails/EndShade.vue'
import NoteRail from '@/components/rails/NoteRail.vue'
import PictureRail from '@/components/rails/PictureRail.vue'
import SmoothStrip from '@/components/rails/SmoothStrip.vue'
import SoundRail from '@/components/rails/SoundRail.vue'
import TitleRail from '@/components/rails/TitleRail.vue'
import SpeedLane from '@/components/rails/SpeedLane.vue'
import TiesBand from '@/components/rails/TiesBand.vue'
import CutView from '@/components/montage/CutView.vue'
import MontageDesk from '@/components/montage/MontageDesk.vue'
import TakesDesk from '@/components/takes/TakesDesk.vue'
import Shelf from '@/components/shelf/Shelf.vue'
import SplitBar from '@/components/SplitBar.vue'
import TopBar from '@/components/TopBar.vue'
import { PLAYBACK, SCREEN } from '@/composables/keys'
import { useDeskKeys } from '@/composables/useDeskKeys'
import { useFlowAhead } from '@/composables/useFlowAhead'
import { useEvents } from '@/composables/useEvents'
import { useKeptFocus } from '@/composables/useKeptFocus'
import { usePlayback, type ShowFrame } from '@/composables/usePlayback'
import { useMeasures } from '@/composables/useMeasures'
import { useTakeWork } from '@/composables/useTakeWork'
import { useTaps } from '@/composables/useTaps'
import { useEdit } from '@/stores/edit'
import { useLayout } from '@/stores/layout'
import { useLibrary } from '@/stores/library'
import { useMontage } from '@/stores/montage'
import { openEdit } from '@/stores/scope'
import { useView } from '@/stores/view'

const LEAST_PICTURE = 168
const NEIGHBOURS_WIDTH = 300

const props = defineProps<{ id: number }>()
openEdit(props.id)
const edit = useEdit()
const view = useView()
const library = useLibrary()
const layout = useLayout()
useMontage() // asks at once where its desk is open
const screen: { show: ShowFrame } = { show: () => undefined }
const playback = usePlayback((stack) => screen.show(stack))
provide(PLAYBACK, playback)
provide(SCREEN, screen)

const exporting = ref(false)
const showingKeys = ref(false)
const showingPast = ref(false)
const opened = ref(false)
/** Why the edit could not be opened. */
const problem = shallowRef<Problem | null>(null)

async function begin(): Promise<void> {
  problem.value = null
  try {
    await Promise.all([edit.open(), library.load()])
  } catch (failure) {
    if (!(failure instanceof Failure)) throw failure
    problem.value = failure.problem
    return
  }
  const clip = edit.clips[edit.clips.length - 1]
  if (clip) view.chooseClip(clip.id)
  else view.choose(edit.takes[0]?.id ?? null)
  view.fit()
  const drop = edit.landings.find((landing) => landing.cue_kind === 'drop') ?? edit.landings[0]
  view.seekFrame(drop?.wanted_frame ?? 0)
  opened.value = true
}
onMounted(begin)
useEvents()
useKeptFocus()
watch(
  () => edit.edit?.title,
  (title) => (document.title = title ? `${title} · Izmet` : 'Izmet'),
)

const { taps, tap } = useTaps(playback)
const seen = useMeasures()
const work = useTakeWork(seen)
const takes = ref<InstanceType<typeof TakesDesk> | null>(null)
watch(
  () => layout.desk,
  (desk) => {
    work.speed.value = 0
    playback.stop()
    view.looking = desk === 'takes' ? 'take' : 'edit'
    if (desk === 'clip') view.goToClip()
  },
  { immediate: true },
)
useFlowAhead()
useDeskKeys({
  playback,
  tap,
  work,
  zoomTake: (factor) => takes.value?.zoom(factor),
  fitTake: () => takes.value?.fit(),
  showKeys: () => (showingKeys.value = true),
  busy: () => exporting.value || showingKeys.value || showingPast.value,
})

/** Side by side where there is room; one beneath the other, scrolled as a page, where there is not. */
const wide = useMediaQuery('(min-width: 900px)')
const columns = computed(() => ({
  '--shelf': `${layout.sizes.shelf}px`,
  '--details': `${layout.sizes.details}px`,
}))
/** Which desks take the room that the picture leaves; the montage scrolls inside it. */
const deskClass = computed(() => {
  if (layout.desk === 'montage') return 'flex-[1_1_0] min-h-[200px]'
  return layout.desk === 'music' || layout.sizes.picture.clip ? 'flex-[1_0_auto]' : ''
})
const row = ref<HTMLElement | null>(null)
const { height: rowHeight } = useElementSize(row)
const rowStyle = computed(() => {
  if (!wide.value) return {}
  const set = layout.large ? 0 : layout.sizes.picture[layout.desk]
  const proportion = (edit.edit?.width ?? 16) / (edit.edit?.height ?? 9)
  // The picture takes what its height allows; what compares frames takes the rest.
  const width = `min(100% - ${NEIGHBOURS_WIDTH}px, ${Math.round(rowHeight.value * proportion)}px)`
  return {
    flex: set ? `0 0 ${set}px` : '1 1 0',
    minHeight: `${LEAST_PICTURE}px`,
    gridTemplateColumns: layout.desk === 'takes' ? 'minmax(0, 1fr)' : `minmax(0, ${width}) minmax(0, 1fr)`,
  }
})
</script>

<template>
  <div class="grid h-full grid-rows-[auto_minmax(0,1fr)_auto]">
    <TopBar @export="exporting = true" @keys="showingKeys = true" @history="showingPast = true" />
    <section v-if="problem" class="m-auto max-w-md rounded-xl bg-panel p-6" role="alert" aria-label="Problem">
      <h1 class="text-[17px] font-semibold text-bad">This edit could not be opened</h1>
      <p class="mt-2">{{ problem.what }}</p>
      <p class="text-muted">{{ problem.remedy }}</p>
      <div class="mt-4 flex gap-2">
        <button class="btn btn-main" @click="begin">Try again</button>
        <RouterLink class="btn" to="/">All edits</RouterLink>
      </div>
    </section>
    <main
      v-else
      class="min-h-0 px-2 pb-2 min-[900px]:grid min-[900px]:grid-cols-[var(--shelf)_auto_minmax(0,1fr)_auto_var(--details)] max-[899px]:flex max-[899px]:flex-col max-[899px]:gap-2 max-[899px]:overflow-y-auto max-[899px]:[&>*]:shrink-0"
      :style="columns"
    >
      <Shelf class="max-[899px]:order-3" />
      <SplitBar
        v-if="wide"
        label="Width of the shelf"
        orientation="vertical"
        :value="layout.sizes.shelf"
        :min="160"
        :max="420"
        @move="layout.sizes.shelf = $event"
        @reset="layout.sizes.shelf = layout.defaults.shelf"
      />
      <div class="flex min-h-0 min-w-0 flex-col">
        <div class="flex min-h-0 flex-1 flex-col overflow-x-hidden min-[900px]:overflow-y-auto">
          <div ref="row" class="grid gap-3" :style="rowStyle">
            <PictureView
              class="max-[899px]:mx-auto max-[899px]:aspect-video max-[899px]:w-[min(100%,78dvh)]"
            />
            <div
              v-if="layout.desk !== 'takes'"
              class="flex min-h-0 min-w-0 flex-col gap-2 overflow-y-auto p-0.5"
            >
              <CutView v-if="layout.desk === 'montage'" />
              <template v-else>
                <Neighbours />
                <LandingCard />
              </template>
            </div>
          </div>
          <SplitBar
            v-if="wide"
            label="Height of the picture"
            orientation="horizontal"
            :value="rowHeight"
            :min="LEAST_PICTURE"
            :max="900"
            @move="layout.sizes.picture[layout.desk] = $event"
            @reset="layout.sizes.picture[layout.desk] = layout.defaults.picture[layout.desk]"
          />
          <div
            v-if="opened"
            v-show="!layout.large"
            id="desk"
            tabindex="-1"
            class="relative flex shrink-0 flex-col"
            :class="deskClass"
            role="tabpanel"
            :aria-labelledby="`tab-${layout.desk}`"
          >
            <TakesDesk v-if="layout.desk === 'takes'" ref="takes" :seen="seen" :work="work" />
            <template v-if="layout.desk === 'clip'">
              <PictureRail />
              <TiesBand />
            </template>
            <MontageDesk v-if="layout.desk === 'montage'" />
            <div v-else-if="layout.desk !== 'takes'" class="relative flex min-h-0 flex-1 flex-col gap-1">
              <template v-if="layout.desk === 'clip'">
                <NoteRail />
                <TitleRail />
                <ClipLane />
                <AccentRail />
                <SoundRail />
                <div>
                  <SpeedLane />
                  <SmoothStrip />
                </div>
              </template>
              <SoundRail v-if="layout.desk === 'music'" />
              <MusicRail
                class="flex-1"
                :class="layout.desk === 'music' ? 'min-h-[300px]' : 'min-h-[148px]'"
              />
              <EndShade />
              <PlayheadLine />
            </div>
          </div>
        </div>
        <DeskBar
          v-if="wide"
          class="mt-1 shrink-0"
          :taps="taps.length"
          :work="work"
          @tap="tap"
          @zoom-take="takes?.zoom($event)"
          @fit-take="takes?.fit()"
        />
      </div>
      <SplitBar
        v-if="wide"
        label="Width of the details"
        orientation="vertical"
        :value="layout.sizes.details"
        :min="200"
        :max="480"
        reversed
        @move="layout.sizes.details = $event"
        @reset="layout.sizes.details = layout.defaults.details"
      />
      <div class="flex min-h-0 flex-col gap-2">
        <DetailsPanel class="flex-1" :seen="seen" :work="work" />
        <LiveProblem />
        <NoticeList v-if="wide" />
      </div>
    </main>
    <div v-if="!wide" class="flex flex-col gap-1 px-2 pb-1">
      <LiveProblem />
      <NoticeList />
      <DeskBar
        :taps="taps.length"
        :work="work"
        @tap="tap"
        @zoom-take="takes?.zoom($event)"
        @fit-take="takes?.fit()"
      />
    </div>
    <ExportDialog :open="exporting" @close="exporting = false" />
    <KeysDialog :open="showingKeys" @close="showingKeys = false" />
    <HistoryDialog :open="showingPast" @close="showingPast = false" />
  </div>
</template>
