<script setup lang="ts">
/** The take at hand in source time: filmstrip, how much moves, and its moments. */
import { computed, ref, shallowRef, watch } from 'vue'
import { bytes, Failure, partOf, type Moment, type Problem } from '@/api/client'
import TryAgain from '@/components/TryAgain.vue'
import { useAxes } from '@/composables/useAxis'
import { useCanvas } from '@/composables/useCanvas'
import { useMomentMoves } from '@/composables/useMomentMoves'
import { useThumbs } from '@/composables/useThumbs'
import { token } from '@/lib/colours'
import { drag } from '@/lib/drag'
import { momentName } from '@/lib/names'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'

const STRIP = 34
const edit = useEdit()
const view = useView()
const canvas = ref<HTMLCanvasElement | null>(null)
let motion: Uint8Array | null = null
const problem = shallowRef<Problem | null>(null)

const { width, redraw } = useCanvas(canvas, (context, w, height) => {
  context.fillStyle = token('paper')
  context.fillRect(0, 0, w, height)
  if (!view.take) return
  drawStrip(context, w)
  drawMotion(context, w, height)
  drawCovered(context)
})
const { thumb } = useThumbs(redraw)
const { source } = useAxes(width)
const moments = computed(() => view.take?.moments ?? [])
const cursor = computed(() => source.value.x(view.takeFrame))
const places = computed(() => {
  const step = (STRIP * (view.take?.width ?? 16)) / (view.take?.height ?? 9)
  const count = Math.max(1, Math.ceil(width.value / step))
  const frames = view.take?.frames ?? 1
  return Array.from({ length: count }, (_, i) => ({
    x: i * step,
    step,
    frame: Math.min(frames - 1, Math.floor(((i + 0.5) * step * frames) / Math.max(1, width.value))),
  }))
})

function drawStrip(context: CanvasRenderingContext2D, w: number): void {
  const sha256 = view.take?.media.sha256
  for (const place of places.value) {
    const image = sha256 ? thumb(sha256, place.frame) : null
    if (image) context.drawImage(image, place.x, 3, place.step - 2, STRIP)
  }
  context.strokeStyle = token('ink')
  context.globalAlpha = 0.35
  context.strokeRect(0.5, 2.5, w - 1, STRIP + 1)
  context.globalAlpha = 1
}

function drawMotion(context: CanvasRenderingContext2D, w: number, height: number): void {
  if (!motion?.length) return
  const top = STRIP + 5
  context.fillStyle = token('slow')
  context.globalAlpha = 0.45
  context.beginPath()
  context.moveTo(0, height)
  for (let x = 0; x <= w; x += 1) {
    const begin = Math.floor((x / w) * motion.length)
    const end = Math.max(begin + 1, Math.floor(((x + 1) / w) * motion.length))
    let most = 0
    for (let i = begin; i < end; i += 1) most = Math.max(most, motion[i] ?? 0)
    context.lineTo(x, height - Math.sqrt(most / 255) * (height - top))
  }
  context.lineTo(w, height)
  context.fill()
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
  context.fillRect(0, 3, first, STRIP)
  context.fillRect(last, 3, width.value - last, STRIP)
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
const local = (event: PointerEvent) => event.clientX - (canvas.value?.getBoundingClientRect().left ?? 0)

function scrub(event: PointerEvent): void {
  if (!view.take) return
  const look = (at: PointerEvent) => view.lookAt(Math.floor(source.value.at(local(at))))
  look(event)
  drag(event, look, () => undefined)
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
  <div class="relative h-[62px] overflow-hidden rounded-t-md" role="group" aria-label="Picture rail">
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
        class="absolute bottom-0.5 left-[9px] max-w-28 truncate rounded-sm bg-paper/85 px-1 text-[12px] leading-4 font-semibold text-ink"
        :class="
          view.selection.kind === 'moment' &&
          view.selection.take === view.takeId &&
          view.selection.moment === moment.id
            ? 'underline'
            : ''
        "
      >
        {{ moment.label || moment.kind }}
      </span>
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
