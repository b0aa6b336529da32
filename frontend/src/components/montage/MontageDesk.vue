<script setup lang="ts">
/** The whole edit like a sheet of music: every line holds so many bars, so that phrases stand under one another. */
import { computed, ref, watch } from 'vue'
import type { SongFacts } from '@/api/client'
import ChoiceRow from '@/components/controls/ChoiceRow.vue'
import { usePeaks } from '@/composables/usePeaks'
import { useLibrary } from '@/stores/library'
import { useMontage } from '@/stores/montage'
import { useMusic } from '@/stores/music'
import { useView } from '@/stores/view'
import SheetLine from './SheetLine.vue'

const BARS = ([2, 4, 8, 16] as const).map((value) => ({ value, text: String(value) }))
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

const lineElements = () => [...(sheet.value?.querySelectorAll<HTMLElement>('[data-line]') ?? [])]

/** The instant under a pointer, whichever line it is over; between lines, that of the nearer one. */
function timeAt(event: PointerEvent): number | null {
  const boxes = lineElements().map((element) => element.getBoundingClientRect())
  let index = boxes.findIndex((box) => event.clientY < box.bottom + 4)
  if (index < 0) index = boxes.length - 1
  const [box, line] = [boxes[index], montage.lines[index]]
  if (!box || !line) return null
  const part = Math.max(0, Math.min(1, (event.clientX - box.left) / box.width))
  return line.from + part * (line.to - line.from)
}

// What plays stays in sight.
watch(
  () => montage.lines.findIndex((line) => view.playhead >= line.from && view.playhead < line.to),
  (index) => lineElements()[index]?.scrollIntoView({ block: 'nearest' }),
)
</script>

<template>
  <div class="flex min-h-0 flex-1 flex-col gap-1">
    <div class="flex items-center gap-2 text-muted">
      <h2 class="heading">Sheet</h2>
      <ChoiceRow
        class="grid-cols-4"
        label="Bars on a line"
        :value="montage.bars"
        :options="BARS"
        @change="montage.bars = $event"
      />
      <span>bars a line</span>
    </div>
    <div
      ref="sheet"
      class="flex min-h-[180px] flex-1 flex-col gap-1.5 overflow-y-auto"
      role="group"
      aria-label="Sheet"
    >
      <SheetLine
        v-for="line in montage.lines"
        :key="line.from"
        :line="line"
        :peaks="peaks"
        :time-at="timeAt"
      />
    </div>
  </div>
</template>
