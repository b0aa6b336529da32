<script setup lang="ts">
/** A cut on the sheet, moved from cue to cue. */
import { useHandleKeys } from '@/composables/useHandleKeys'
import { computed } from 'vue'
import { useClipName } from '@/composables/useClipName'
import type { SheetPlace } from '@/composables/useSheetLine'
import { nearestCue } from '@/lib/cues'
import { drag } from '@/lib/drag'
import { useEdit } from '@/stores/edit'
import { useMontage } from '@/stores/montage'
import { useMusic } from '@/stores/music'
import { useView } from '@/stores/view'
import { BAND, CLIPS, STRIP } from './sheet'

type Cut = SheetPlace['cuts'][number]
const props = defineProps<{
  cut: Cut
  place: SheetPlace
  timeAt: (event: PointerEvent) => number | null
}>()
const edit = useEdit()
const handleKeys = useHandleKeys()
const view = useView()
const music = useMusic()
const montage = useMontage()
const nameOf = useClipName()

/** It stays between the begin of the clip before it and the end of the one after it. */
const room = computed(() => {
  const [before, after] = [props.cut.before, props.cut.after].map((id) => edit.derivedById.get(id))
  return {
    least: (before?.first ?? 0) + 1,
    most: after ? after.first + after.source.length - 1 : props.cut.n,
  }
})
const move = (cue: string) =>
  ({ do: 'move-cut', clip: props.cut.before, other: props.cut.after, cue }) as const

function grab(event: PointerEvent): void {
  event.stopPropagation()
  montage.seekCut(props.cut.n)
  let cue: string | null = null
  let before: number | null = null
  drag(
    event,
    (at) => {
      const time = props.timeAt(at)
      const next = time === null ? null : nearestCue(music.shown, time)
      if (time === null || !next) return
      // The cue that the hand seems to be on its way to is asked ahead.
      const far = nearestCue(music.shown, 2 * time - (before ?? time))
      before = time
      if (next.id === cue) return
      cue = next.id
      // The viewer follows the hand, and shows what the clip after the cut would begin with.
      view.seekFrame(next.frame)
      void edit.dryRun(move(cue), move(far?.id ?? cue))
    },
    (moved) => {
      if (!moved || !cue) return edit.settle()
      void edit.run(move(cue))
    },
  )
}

function keys(event: KeyboardEvent): void {
  handleKeys(event, {
    step: (by) => {
      const ordered = by > 0 ? music.shown : [...music.shown].reverse()
      const next = ordered.find((cue) => (cue.frame - props.cut.n) * by > 0)
      if (next) void edit.run(move(next.id))
    },
  })
}
</script>

<template>
  <div
    class="absolute w-6 -ml-3 cursor-ew-resize"
    :style="{ left: `${place.frames.x(cut.n)}px`, top: `${CLIPS - 4}px`, height: `${STRIP + BAND + 8}px` }"
    role="slider"
    tabindex="0"
    :aria-label="`Cut to ${nameOf(cut.after)}`"
    :aria-valuemin="room.least"
    :aria-valuemax="room.most"
    :aria-valuenow="cut.n"
    :aria-valuetext="`output frame ${cut.n}, the movement ${cut.way}`"
    @pointerdown="grab"
    @keydown="keys"
    @focus="montage.cutAt = cut.n"
  >
    <span
      class="mx-auto block h-full"
      :class="montage.cut?.n === cut.n ? 'w-1 bg-brass' : 'w-0.5 bg-paper'"
    />
  </div>
</template>
