<script setup lang="ts">
/** Pictures around a frame side by side, each over its difference from the one before. */
import { ref, watch } from 'vue'
import type { Proposal, TakeMeasures } from '@/api/client'
import { REACH } from '@/composables/useMeasures'
import { pictures } from '@/composables/usePack'
import { useView } from '@/stores/view'

const props = defineProps<{ guess: Proposal | null; measures: TakeMeasures | null; quiet: boolean }>()
defineEmits<{ refine: [] }>()
/** How much brighter differences are drawn than they are: the eye is to see them, not to search. */
const GAIN = 3
const view = useView()
const canvases = ref<HTMLCanvasElement[]>([])
const offsets = Array.from({ length: 2 * REACH + 1 }, (_, index) => index - REACH)
const inTake = (frame: number) => frame >= 0 && frame < (view.take?.frames ?? 0)
const repeats = (frame: number) => props.measures !== null && inTake(frame) && !props.measures.fresh[frame]

let drawn = 0
async function draw(): Promise<void> {
  const sha256 = view.take?.media.sha256
  const middle = view.takeFrame
  const mine = (drawn += 1)
  if (!sha256 || props.quiet) return
  const frames = [-REACH - 1, ...offsets].map((offset) => middle + offset)
  const found = await Promise.all(
    frames.map((frame) => (inTake(frame) ? pictures.get(sha256, frame) : Promise.resolve(null))),
  )
  if (mine !== drawn) return
  offsets.forEach((_, index) => paint(canvases.value[index], found[index] ?? null, found[index + 1] ?? null))
}

/**
 * The picture, whole and undistorted, and what is new in it: below it, or beside one that is higher than wide.
 * Nothing where the take has no frame.
 */
function paint(
  canvas: HTMLCanvasElement | undefined,
  before: ImageBitmap | null,
  now: ImageBitmap | null,
): void {
  const context = canvas?.getContext('2d')
  if (!canvas || !context) return
  context.globalCompositeOperation = 'source-over'
  context.filter = 'none'
  context.clearRect(0, 0, canvas.width, canvas.height)
  if (!now?.width) return
  const upright = now.height > now.width
  const room = [canvas.width / (upright ? 2 : 1), canvas.height / (upright ? 1 : 2)] as const
  const scale = Math.min(room[0] / now.width, room[1] / now.height)
  const size = [now.width * scale, now.height * scale] as const
  const [x, y] = [(room[0] - size[0]) / 2, (room[1] - size[1]) / 2]
  const news = [x + (upright ? room[0] : 0), y + (upright ? 0 : room[1]), ...size] as const
  context.drawImage(now, x, y, ...size)
  context.fillStyle = '#000'
  context.fillRect(...news)
  if (!before?.width) return
  context.filter = 'grayscale(1)'
  context.drawImage(now, ...news)
  context.globalCompositeOperation = 'difference'
  context.drawImage(before, ...news)
  context.filter = 'none'
  context.globalCompositeOperation = 'color-dodge'
  context.fillStyle = `rgb(${Array(3)
    .fill(Math.round(255 * (1 - 1 / GAIN)))
    .join(' ')})`
  context.fillRect(...news)
}

watch(() => [view.takeFrame, view.take?.media.sha256, props.quiet, canvases.value.length], draw, {
  immediate: true,
  flush: 'post',
})
const say = (offset: number) => (offset > 0 ? `+${offset}` : `−${-offset}`)
</script>

<template>
  <section class="shrink-0" aria-label="Hit finder">
    <div class="mb-1 flex items-baseline justify-between gap-3">
      <h2 class="heading">First frame of the hit</h2>
      <div class="flex min-w-0 items-baseline gap-2 text-brass">
        <p class="truncate" role="status">
          <template v-if="guess">
            {{ guess.kind }} at <span class="num">{{ guess.frame }}</span>: {{ guess.why }}
          </template>
        </p>
        <button
          v-if="guess && guess.frame !== view.takeFrame"
          class="shrink-0 underline"
          :title="`The ${guess.kind} is a moment here, not at ${guess.frame} (R)`"
          @click="$emit('refine')"
        >
          Mark it at <span class="num">{{ view.takeFrame }}</span>
        </button>
      </div>
    </div>
    <div class="grid grid-cols-9 gap-1">
      <button
        v-for="offset in offsets"
        :key="offset"
        class="min-w-0 rounded bg-panel p-0.5"
        :class="[
          offset === 0 ? 'ring-2 ring-brass' : '',
          guess?.frame === view.takeFrame + offset ? 'outline-2 outline-dashed outline-good' : '',
        ]"
        :disabled="!inTake(view.takeFrame + offset)"
        :aria-label="
          offset === 0
            ? `Frame ${view.takeFrame} and what is new in it`
            : `${Math.abs(offset)} ${offset < 0 ? 'earlier' : 'later'}`
        "
        @click="view.lookAt(view.takeFrame + offset)"
      >
        <canvas ref="canvases" class="block w-full rounded-sm" width="128" height="144" />
        <span
          class="num flex justify-center gap-1 text-[12px]"
          :class="offset === 0 ? 'font-bold text-brass' : 'text-muted'"
        >
          {{ offset === 0 ? (view.take ? view.takeFrame : '–') : say(offset) }}
          <span v-if="repeats(view.takeFrame + offset)" title="The same picture as the frame before">=</span>
        </span>
      </button>
    </div>
  </section>
</template>
