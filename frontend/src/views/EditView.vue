<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
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
import { useEvents } from '@/composables/useEvents'
import { usePlayback } from '@/composables/usePlayback'
import { useTaps } from '@/composables/useTaps'
import { useEdit } from '@/stores/edit'
import { useLibrary } from '@/stores/library'
import { useListening } from '@/stores/listening'
import { useMusic } from '@/stores/music'
import { useNotices } from '@/stores/notices'
import { useView } from '@/stores/view'

const props = defineProps<{ id: number }>()
const edit = useEdit()
const view = useView()
const library = useLibrary()
const notices = useNotices()
const music = useMusic()
const listening = useListening()
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

function toCue(direction: 1 | -1): void {
  const cues = music.shown.filter((cue) => music.isChosen(cue.id))
  const next =
    direction > 0
      ? cues.find((cue) => cue.at > view.playhead + 0.002)
      : cues.reverse().find((cue) => cue.at < view.playhead - 0.002)
  if (!next) return
  if (music.desk === 'music') view.select({ kind: 'cues', cues: [next.id] })
  view.seek(next.at)
  if (next.at < view.from || next.at > view.to) view.pan(next.at - (view.from + view.to) / 2)
}

/** Repeat what the selected cues span, else what is in view; or stop repeating. */
function toggleLoop(): void {
  const at = view.selectedCues.flatMap((id) => edit.cueById.get(id)?.at ?? [])
  const span = at.length > 1 ? { from: Math.min(...at), to: Math.max(...at) } : null
  listening.loop = listening.loop ? null : (span ?? { from: Math.max(0, view.from), to: view.to })
}

function selectShown(): void {
  const cues = music.shown
    .filter((cue) => cue.at >= view.from && cue.at <= view.to && music.isChosen(cue.id))
    .map((cue) => cue.id)
  if (cues.length) view.select({ kind: 'cues', cues })
}

const middle = () => (view.from + view.to) / 2
const frames = (event: KeyboardEvent) => (event.shiftKey ? 10 : 1)
const KEYS: Record<string, (event: KeyboardEvent) => void> = {
  ' ': () => playback.toggle(),
  ArrowLeft: (event) => view.seekFrame(view.frame - frames(event)),
  ArrowRight: (event) => view.seekFrame(view.frame + frames(event)),
  '[': () => view.lookAt(view.takeFrame - 1),
  ']': () => view.lookAt(view.takeFrame + 1),
  '{': () => view.lookAt(view.takeFrame - 10),
  '}': () => view.lookAt(view.takeFrame + 10),
  ',': () => toCue(-1),
  '.': () => toCue(1),
  t: tap,
  h: () => neighbours.value?.mark('impact'),
  c: () => (listening.clicks = !listening.clicks),
  l: toggleLoop,
  m: () => (music.desk = music.desk === 'music' ? 'clip' : 'music'),
  a: selectShown,
  f: () => view.fit(),
  '+': () => view.zoom(1 / 1.5, middle()),
  '=': () => view.zoom(1 / 1.5, middle()),
  '-': () => view.zoom(1.5, middle()),
  '/': () => (showingKeys.value = true),
  Escape: () => view.select({ kind: 'none' }),
}

useEventListener('keydown', (event) => {
  const target = event.target as HTMLElement
  if (target.matches('input') && ['Escape', 'Enter'].includes(event.key)) return target.blur()
  if (exporting.value || showingKeys.value || target.closest('input, [role=listbox], [role=dialog]')) return
  if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'z') {
    event.preventDefault()
    void (event.shiftKey ? edit.redo() : edit.undo())
    return
  }
  if (event.ctrlKey || event.metaKey || event.altKey) return
  const act = KEYS[event.key.length === 1 ? event.key.toLowerCase() : event.key]
  // Space on a focused button presses it, but play is what one means here.
  if (!act || (event.key === 'Enter' && target.closest('button'))) return
  event.preventDefault()
  act(event)
})
useEventListener('keyup', (event) => event.key === ' ' && event.preventDefault())
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
