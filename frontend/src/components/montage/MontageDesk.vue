<script setup lang="ts">
/** The whole edit like a sheet of music: every line holds so many bars, so that phrases stand under one another. */
import { useElementSize, useScroll } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import type { SongFacts } from '@/api/client'
import ChoiceRow from '@/components/controls/ChoiceRow.vue'
import { usePeaks } from '@/composables/usePeaks'
import { useLibrary } from '@/stores/library'
import { useMontage, ZOOMS } from '@/stores/montage'
import { useMusic } from '@/stores/music'
import { useView } from '@/stores/view'
import SheetLine from './SheetLine.vue'
import { LINE_HEIGHT } from './sheet'

const SIZES = ZOOMS.map((value) => ({ value, text: value.replace('bars-', '') }))
const library = useLibrary()
const music = useMusic()
const montage = useMontage()
const view = useView()
const sheet = ref<HTMLElement | null>(null)
const song = computed(() => {
  const asset = library.songs.find((other) => other.sha256 === music.sha256)
  return asset?.state === 'ready' ? { sha256: asset.sha256, facts: asset.facts as SongFacts } : null
})
const { peaks } = usePeaks(song)

/** Lines in sight, and a few around them: a song in frames has thousands. */
const PITCH = LINE_HEIGHT + 6
const AROUND = 2
const { y: scrolled } = useScroll(sheet)
/** One width for all lines: each would have the page laid out anew to know its own. */
const { width, height } = useElementSize(sheet)
const first = computed(() => Math.max(0, Math.floor(scrolled.value / PITCH) - AROUND))
/** As many lines are laid out, wherever one has scrolled to: each takes the next place when it is out of sight. */
const most = computed(() => Math.ceil(height.value / PITCH) + 2 * AROUND + 1)
const shown = computed(() => montage.lines.slice(first.value, first.value + most.value))

/** The instant under a pointer, whichever line it is over; between lines, that of the one above. */
function timeAt(event: PointerEvent): number | null {
  const box = sheet.value?.getBoundingClientRect()
  if (!box || !sheet.value) return null
  const wanted = Math.floor((event.clientY - box.top + sheet.value.scrollTop) / PITCH)
  const line = montage.lines[Math.max(0, Math.min(montage.lines.length - 1, wanted))]
  if (!line) return null
  const part = Math.max(0, Math.min(1, (event.clientX - box.left) / sheet.value.clientWidth))
  return line.from + part * (line.to - line.from)
}

/** What plays stays in sight, also when the lines are laid out anew. */
watch(
  () => montage.lines.findIndex((line) => view.playhead >= line.from && view.playhead < line.to),
  (index) => {
    const { value: box } = sheet
    if (!box || index < 0) return
    const top = index * PITCH
    if (top < box.scrollTop) box.scrollTop = top
    else if (top + PITCH > box.scrollTop + box.clientHeight) box.scrollTop = top + PITCH - box.clientHeight
  },
  { flush: 'post' },
)

/** With a held key the wheel goes from the whole song to frames, and back. */
function wheel(event: WheelEvent): void {
  if (!event.ctrlKey && !event.metaKey) return
  event.preventDefault()
  const next = ZOOMS.indexOf(montage.zoom) + (event.deltaY < 0 ? 1 : -1)
  montage.zoom = ZOOMS[Math.max(0, Math.min(ZOOMS.length - 1, next))]!
}
</script>

<template>
  <div class="flex min-h-0 flex-1 flex-col gap-1">
    <div class="flex items-center gap-2 text-muted">
      <h2 class="heading">Sheet</h2>
      <ChoiceRow
        class="grid-cols-7"
        label="On a line"
        :value="montage.zoom"
        :options="SIZES"
        @change="montage.zoom = $event"
      />
      <span>{{ montage.zoom.startsWith('bars') ? 'bars a line' : 'a line' }}</span>
    </div>
    <div
      ref="sheet"
      class="relative min-h-[180px] flex-1 overflow-y-auto"
      role="group"
      aria-label="Sheet"
      @wheel="wheel"
    >
      <div :style="{ height: `${montage.lines.length * PITCH}px` }" />
      <SheetLine
        v-for="(line, index) in shown"
        :key="(first + index) % most"
        class="absolute! inset-x-0"
        :style="{ top: `${(first + index) * PITCH}px` }"
        :line="line"
        :width="width"
        :peaks="peaks"
        :time-at="timeAt"
      />
    </div>
  </div>
</template>
