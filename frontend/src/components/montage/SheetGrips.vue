<script setup lang="ts">
/**
 * Slip and slide for the clip at hand. Slip: pictures follow the hand under the clip, one source frame a frame of
 * the sheet. Slide: the clip does.
 */
import { useHandleKeys } from '@/composables/useHandleKeys'
import { computed, ref } from 'vue'
import type { DerivedClip } from '@/api/client'
import { useClipName } from '@/composables/useClipName'
import type { SheetPlace } from '@/composables/useSheetLine'
import { drag } from '@/lib/drag'
import { useEdit } from '@/stores/edit'
import { useLayout } from '@/stores/layout'
import { CLIPS, STRIP } from './sheet'

const props = defineProps<{ clip: DerivedClip; place: SheetPlace }>()
const edit = useEdit()
const handleKeys = useHandleKeys()
const layout = useLayout()
const nameOf = useClipName()
/** How far it is dragged right now. */
const pulled = ref<number | null>(null)
const HEIGHT = 24
const ROOM = 96
const wideEnough = computed(() => {
  const [left, right] = props.place.edges(props.clip)
  return right - left >= ROOM
})

/** As many source frames as the take has before and after what is shown of it. */
const slips = computed(() => {
  const frames = edit.takeOf(props.clip.id)?.frames ?? 0
  let [least, most] = [frames, 0]
  for (const at of props.clip.source) [least, most] = [Math.min(least, at), Math.max(most, at)]
  return { least: -Math.floor(least), most: Math.max(0, frames - 1 - Math.ceil(most)) }
})
/** As many output frames as its neighbours have to give. */
const slides = computed(() => {
  const { id, first, source } = props.clip
  const last = first + source.length
  const clips = edit.derived?.clips ?? []
  const before = clips.find((other) => other.id !== id && other.first + other.source.length === first)
  const after = clips.find((other) => other.id !== id && other.first === last)
  return {
    least: (before ? before.first + 1 : 0) - first,
    most: (after ? after.first + after.source.length - 1 : edit.clock.next(edit.over)) - last,
  }
})
const GRIPS = [
  { do: 'slip-clip', name: 'Slip', sign: '⇹', what: 'other pictures in the same place', room: slips },
  {
    do: 'slide-clip',
    name: 'Slide',
    sign: '⇿',
    what: 'its neighbours grow and shrink to meet it',
    room: slides,
  },
] as const
type Grip = (typeof GRIPS)[number]

const by = ({ do: what }: Grip, frames: number) => ({ do: what, clip: props.clip.id, by: frames }) as const

function pull(event: PointerEvent, grip: Grip): void {
  event.stopPropagation()
  const start = event.clientX
  const way = grip.do === 'slip-clip' ? -1 : 1
  drag(
    event,
    (at) => {
      const next = way * Math.round((at.clientX - start) / props.place.frames.scale)
      if (next === pulled.value) return
      pulled.value = next
      void edit.dryRun(by(grip, next))
    },
    (moved) => {
      const frames = pulled.value
      pulled.value = null
      if (moved && frames) void edit.run(by(grip, frames))
      else edit.settle()
    },
  )
}

const keys = (event: KeyboardEvent, grip: Grip) =>
  handleKeys(event, { step: (frames) => void edit.run(by(grip, frames)) })
</script>

<template>
  <div
    v-if="wideEnough"
    class="pointer-events-none absolute z-10 flex justify-center gap-1"
    :style="{ ...place.box(place.edges(clip)), top: `${CLIPS + STRIP - HEIGHT}px`, height: `${HEIGHT}px` }"
  >
    <span
      v-for="grip in GRIPS"
      :key="grip.do"
      class="pointer-events-auto cursor-ew-resize rounded bg-black/65 px-1.5 text-[11px] leading-6 font-semibold text-white select-none"
      role="slider"
      tabindex="0"
      :aria-label="`${grip.name} ${nameOf(clip.id)}`"
      :aria-valuemin="grip.room.value.least"
      :aria-valuemax="grip.room.value.most"
      :aria-valuenow="pulled ?? 0"
      :title="`${grip.name}: ${grip.what}`"
      @pointerdown="pull($event, grip)"
      @keydown="keys($event, grip)"
      @dblclick="layout.desk = 'clip'"
      >{{ grip.sign }} {{ grip.name }}{{ pulled ? ` ${pulled > 0 ? '+' : ''}${pulled}` : '' }}</span
    >
  </div>
</template>
