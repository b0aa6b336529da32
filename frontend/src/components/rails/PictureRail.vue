<script setup lang="ts">
/** The take at hand in source time: filmstrip, how much moves, and its moments. */
import { Maximize2 } from '@lucide/vue'
import { computed, ref, shallowRef, watch } from 'vue'
import { bytes, Failure, partOf, type Moment, type Problem, type Take } from '@/api/client'
import TryAgain from '@/components/TryAgain.vue'
import { useAxes } from '@/composables/useAxis'
import { useCanvas } from '@/composables/useCanvas'
import { useMomentMoves } from '@/composables/useMomentMoves'
import { useThumbs } from '@/composables/useThumbs'
import { token } from '@/lib/colours'
import { drag } from '@/lib/drag'
import { drawGreatest, drawStrip } from '@/lib/film'
import { momentName } from '@/lib/names'
import { hasRoom } from '@/lib/sparse'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'

const STRIP = 34
const TOP = 3
const edit = useEdit()
const view = useView()
const canvas = ref<HTMLCanvasElement | null>(null)
let motion: Uint8Array | null = null
const problem = shallowRef<Problem | null>(null)

const { width, redraw } = useCanvas(canvas, (context, w, height) => {
  context.fillStyle = token('paper')
  context.fillRect(0, 0, w, height)
  if (!view.take) return
  drawPictures(context, view.take, w)
  drawMotion(context, w, height)
  drawCovered(context)
  drawPart(context, w)
})
const { thumb } = useThumbs(redraw)
const { source } = useAxes(width)
const moments = computed(() => (view.take?.moments ?? []).filter((moment) => view.source.holds(moment.frame)))
const cursor = computed(() => source.value.x(view.takeFrame))
const frames = computed(() => view.take?.frames ?? 1)
const whole = computed(() => view.source.to - view.source.from >= frames.value)

function drawPictures(context: CanvasRenderingContext2D, take: Take, right: number): void {
  const { sha256 } = take.media
  const film = { frames: take.frames, aspect: take.width / take.height, gap: 2 }
  const band = { left: 0, right, top: TOP, bottom: TOP + STRIP }
  drawStrip(context, source.value, band, film, (frame) => (sha256 ? thumb(sha256, frame) : null))
  context.strokeStyle = token('ink')
  context.globalAlpha = 0.35
  context.strokeRect(0.5, TOP - 0.5, right - 1, STRIP + 1)
  context.globalAlpha = 1
}

/** Which part of the take this is, where it is not all of it. */
function drawPart(context: CanvasRenderingContext2D, w: number): void {
  if (whole.value) return
  const { from, to } = view.source
  context.fillStyle = token('tie-ink')
  context.fillRect((from / frames.value) * w, 0, Math.max(3, ((to - from) / frames.value) * w), TOP - 1)
}

function drawMotion(context: CanvasRenderingContext2D, right: number, bottom: number): void {
  const moves = motion
  if (!moves?.length) return
  const band = { left: 0, right, top: STRIP + TOP + 2, bottom }
  context.fillStyle = token('slow')
  context.globalAlpha = 0.45
  drawGreatest(context, source.value, band, moves.length, (frame) => Math.sqrt(moves[frame]! / 255))
  context.globalAlpha = 1
}

/** Shade what the clip leaves out. */
function drawCovered(context: CanvasRenderingContext2D): void {
  const pins = view.derivedClip?.pins
  if (!pins?.length) return
  const first = source.value.x(pins[0]!.p)
  const last = source.value.x(pins[pins.length - 1]!.p)
  context.fillStyle = token('ink')
  context.globalAlpha = 0.42
  context.fillRect(0, TOP, first, STRIP)
  context.fillRect(last, TOP, width.value - last, STRIP)
  context.globalAlpha = 1
}

async function load(sha256: string | null | undefined): Promise<void> {
  motion = problem.value = null
  if (!sha256) return
  try {
    const found = new Uint8Array(await bytes(partOf(sha256, 'motion')))
    if (view.take?.media.sha256 === sha256) motion = found
  } catch (failure) {
    if (!(failure instanceof Failure)) throw failure
    if (view.take?.media.sha256 === sha256) problem.value = failure.problem
  }
  redraw()
}
watch(() => view.take?.media.sha256, load, { immediate: true })
const local = (event: MouseEvent) => event.clientX - (canvas.value?.getBoundingClientRect().left ?? 0)

function scrub(event: PointerEvent): void {
  if (!view.take) return
  const look = (at: PointerEvent) => view.lookAt(Math.floor(source.value.at(local(at))))
  look(event)
  drag(event, look, () => undefined)
}

/** Room that a moment's name takes. */
const NAME = 60
const isSelected = ({ id }: Moment) => {
  const { selection } = view
  return selection.kind === 'moment' && selection.take === view.takeId && selection.moment === id
}
/** Whether a moment's name has room before the next one. */
function named(moment: Moment): boolean {
  const others = moments.value.map((other) => source.value.x(other.frame))
  return isSelected(moment) || hasRoom(source.value.x(moment.frame), others, NAME)
}

const { dragMoment, momentKeys } = useMomentMoves((event) => source.value.at(local(event)))

function grab(event: PointerEvent, moment: Moment): void {
  view.select({ kind: 'moment', take: view.takeId ?? '', moment: moment.id })
  view.lookAt(moment.frame)
  dragMoment(event, moment)
}

const remove = (moment: Moment) =>
  void edit.run({ do: 'remove-moment', take: view.take?.id ?? '', moment: moment.id })
</script>

<template>
  <div
    class="relative h-[62px] overflow-hidden rounded-t-md"
    role="group"
    aria-label="Picture rail"
    @wheel.prevent="view.source.wheel($event, source.at(local($event)), source.scale)"
  >
    <canvas ref="canvas" class="absolute inset-0 h-full w-full cursor-ew-resize" @pointerdown="scrub" />
    <div
      v-if="view.take"
      class="pointer-events-none absolute top-0 h-full w-0.5 bg-repeat"
      :style="{ transform: `translateX(${cursor}px)` }"
    />
    <button
      v-for="moment in moments"
      :key="moment.id"
      class="absolute top-0 left-0 flex h-full w-3 -ml-1.5 flex-col items-center"
      :style="{ transform: `translateX(${source.x(moment.frame)}px)` }"
      :aria-label="`Moment ${momentName(moment)}${moment.label ? `, frame ${moment.frame}` : ''}`"
      :title="`${momentName(moment)}${moment.label ? `: frame ${moment.frame}` : ''}. Drag to move.`"
      @pointerdown="grab($event, moment)"
      @keydown="momentKeys($event, moment, () => remove(moment))"
      @focus="view.select({ kind: 'moment', take: view.takeId ?? '', moment: moment.id })"
    >
      <span class="h-full w-0.5 bg-tie-ink" />
      <span
        v-if="named(moment)"
        class="absolute bottom-0.5 left-[9px] max-w-28 truncate rounded-sm bg-paper/85 px-1 text-[12px] leading-4 font-semibold text-ink"
        :class="isSelected(moment) ? 'underline' : ''"
      >
        {{ moment.label || moment.kind }}
      </span>
    </button>
    <button
      v-if="!whole"
      class="btn absolute top-1 right-1 min-h-6! px-1!"
      aria-label="The whole take on the rail"
      title="The whole take; Fit shows the clip again"
      @click="view.source.all()"
    >
      <Maximize2 :size="13" />
    </button>
    <TryAgain
      v-if="problem"
      class="absolute right-1 bottom-1"
      :problem="problem"
      what="How much moves could not be loaded."
      @again="load(view.take?.media.sha256)"
    />
    <p v-if="!view.take" class="absolute inset-0 grid place-items-center text-ink-muted">
      Choose a take on the shelf to see its frames here.
    </p>
  </div>
</template>
