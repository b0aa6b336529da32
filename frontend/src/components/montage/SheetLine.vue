<script setup lang="ts">
/** One line of the sheet: what is drawn of it, and the clips, cuts and blacks that can be taken in hand. */
import { computed } from 'vue'
import type { Peaks } from '@/composables/usePeaks'
import { useSheetLine } from '@/composables/useSheetLine'
import { drag } from '@/lib/drag'
import { useEdit } from '@/stores/edit'
import { useMontage, type Line } from '@/stores/montage'
import { useView } from '@/stores/view'
import SheetCanvas from './SheetCanvas.vue'
import SheetClip from './SheetClip.vue'
import SheetCut from './SheetCut.vue'
import SheetGrips from './SheetGrips.vue'
import { LINE_HEIGHT } from './sheet'

const props = defineProps<{
  line: Line
  width: number
  peaks: Peaks | null
  timeAt: (event: PointerEvent) => number | null
}>()
const edit = useEdit()
const view = useView()
const montage = useMontage()
const place = useSheetLine(
  () => props.line,
  () => props.width,
)
const x = (time: number) => place.times.x(time)
const here = computed(() => view.playhead >= props.line.from && view.playhead < props.line.to)
const atHand = computed(() => place.clips.find((clip) => clip.id === view.clip?.id))

function seek(event: PointerEvent): void {
  const to = (at: PointerEvent) => {
    const time = props.timeAt(at)
    if (time !== null) view.seek(time)
  }
  montage.cutAt = null
  to(event)
  drag(event, to, () => undefined)
}

const light = (black: string) => void edit.run({ do: 'remove-black', black })
</script>

<template>
  <div class="relative shrink-0 overflow-hidden rounded-md" :style="{ height: `${LINE_HEIGHT}px` }" data-line>
    <SheetCanvas :place="place" :peaks="peaks" @pointerdown="seek" />
    <SheetClip v-for="clip in place.clips" :key="clip.id" :clip="clip" :place="place" />
    <SheetGrips v-if="atHand" :key="`grips ${atHand.id}`" :clip="atHand" :place="place" />
    <button
      v-for="black in place.blacks"
      :key="black.id"
      class="absolute truncate px-1 text-[11px] text-white/70 focus-visible:ring-2 focus-visible:ring-brass"
      :style="place.box([Math.max(0, x(black.from)), Math.min(width, x(black.to))], 6)"
      :aria-label="`Black, ${black.from.toFixed(2)} to ${black.to.toFixed(2)} s; Delete removes it`"
      title="Black; Delete or a double click removes it"
      @keydown.delete.stop="light(black.id)"
      @dblclick="light(black.id)"
      @click="view.seek(black.from)"
    >
      black
    </button>
    <SheetCut v-for="cut in place.cuts" :key="cut.n" :cut="cut" :place="place" :time-at="timeAt" />
    <button
      v-for="each in place.troubles"
      :key="`${each.kind} ${each.n} ${each.clip}`"
      class="absolute size-6 -ml-3 text-[15px] leading-none text-repeat"
      :style="{ left: `${Math.max(12, Math.min(width - 12, place.frames.x(each.n)))}px`, top: '-2px' }"
      :aria-label="`${each.kind}: ${each.what}`"
      :title="each.what"
      @click="view.seekFrame(each.n)"
    >
      ▾
    </button>
    <div
      v-if="here"
      class="pointer-events-none absolute inset-y-0 -ml-px w-0.5 bg-repeat"
      :style="{ left: `${x(view.playhead)}px` }"
    />
  </div>
</template>
