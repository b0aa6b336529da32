<script setup lang="ts">
/** The take from its first frame to its last, or closer: pictures, lanes, moments, proposals, selects. */
import { computed, ref, watch } from 'vue'
import type { Moment, Problem, Proposal, Take, TakeLooks } from '@/api/client'
import TryAgain from '@/components/TryAgain.vue'
import { linear } from '@/lib/axis'
import { useCanvas } from '@/composables/useCanvas'
import { useMomentMoves } from '@/composables/useMomentMoves'
import { useStretch } from '@/composables/useStretch'
import { useThumbs } from '@/composables/useThumbs'
import { token } from '@/lib/colours'
import { drag } from '@/lib/drag'
import { drawGreatest, drawStrip } from '@/lib/film'
import { momentName } from '@/lib/names'
import { hasRoom, sparse } from '@/lib/sparse'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'

const props = defineProps<{
  looks: TakeLooks | null
  proposals: Proposal[]
  problem: Problem | null
  point: number | null
}>()
defineEmits<{ again: [] }>()

const NAMES = 86
const TOP = 3
const STRIP = 40
const LANE = 30
const LANES = ['light', 'motion', 'direction', 'sound', 'new frames'] as const
/** Where the lane with this index ends. */
const bottomOf = (lane: number) => STRIP + 6 + (lane + 1) * LANE
const KNOB = 12
/** Room that a proposal's name takes. */
const NAME = 62
/** Proposals that stand closer are drawn when one looks closer. */
const APART = 14
/** Of more than so many the stems are faint: the lanes are to be seen through them. */
const MANY = 16
/** How far the stems of moments and proposals reach, and where selects stand below them. */
const STEM = bottomOf(LANES.length - 1) + 8
const SELECT = 18
const SELECTS = STEM + KNOB + 6
const HEIGHT = SELECTS + 2 * SELECT + 4
const LEAST_LIGHT = 0.15
const edit = useEdit()
const view = useView()
const canvas = ref<HTMLCanvasElement | null>(null)
const frames = computed(() => view.take?.frames ?? 1)
const { from, to, all, zoom, wheel, holds: inView } = useStretch(frames, () => view.takeFrame)
watch([() => view.takeId, frames], all, { immediate: true })

const { width, redraw } = useCanvas(canvas, draw)
const { thumb } = useThumbs(redraw)
const axis = computed(() => linear(from.value, to.value, Math.max(1, width.value - NAMES), NAMES))
const scale = computed(() => axis.value.scale)
const x = (frame: number) => axis.value.x(frame)
const frameAt = (at: number) => axis.value.at(at)
defineExpose({ zoom: (factor: number) => zoom(factor, view.takeFrame + 0.5), fit: all })

function draw(context: CanvasRenderingContext2D, w: number, height: number): void {
  context.fillStyle = token('paper')
  context.fillRect(0, 0, w, height)
  if (!view.take) return
  drawPictures(context, view.take, w)
  const { looks } = props
  context.font = '600 12px "Inter Variable", sans-serif'
  LANES.forEach((name, lane) => {
    const bottom = bottomOf(lane)
    context.fillStyle = token('ink-muted')
    context.fillText(name, 8, bottom - 9)
    context.fillStyle = token('paper-line')
    context.fillRect(NAMES, bottom, w - NAMES, 1)
  })
  if (!looks) return
  const { low, high } = lightRange.value
  area(context, w, 0, (frame) => (looks.light[frame]! - low) / (high - low), 'hand')
  area(context, w, 1, (frame) => Math.sqrt(looks.moves[frame]! / greatest.value), 'slow')
  drawGoing(context, w, looks)
  area(context, w, 3, (frame) => looks.loud[frame]!, 'repeat')
  drawFresh(context, w, looks)
}

const greatest = computed(() => {
  const moves = Array.from(props.looks?.moves ?? []).sort((a, b) => a - b)
  return Math.max(0.005, moves[Math.floor(moves.length * 0.995)] ?? 0)
})
/** Light is drawn from the darkest frame to the brightest; a take that hardly changes stays low. */
const lightRange = computed(() => {
  const { light } = props.looks ?? { light: [] }
  let [low, high] = [1, 0]
  for (let frame = 0; frame < light.length; frame += 1) {
    low = Math.min(low, light[frame]!)
    high = Math.max(high, light[frame]!)
  }
  return { low: low - 0.02, high: Math.max(high, low + LEAST_LIGHT) }
})

function drawPictures(context: CanvasRenderingContext2D, take: Take, right: number): void {
  const { sha256 } = take.media
  if (!sha256) return
  const film = { frames: take.frames, aspect: take.width / take.height, gap: 1 }
  const band = { left: NAMES, right, top: TOP, bottom: TOP + STRIP }
  drawStrip(context, axis.value, band, film, (frame) => thumb(sha256, frame))
}

function area(
  context: CanvasRenderingContext2D,
  right: number,
  lane: number,
  valueOf: (frame: number) => number,
  colour: string,
): void {
  const bottom = bottomOf(lane)
  const band = { left: NAMES, right, top: bottom - LANE + 5, bottom }
  context.fillStyle = token(colour)
  context.globalAlpha = 0.6
  drawGreatest(context, axis.value, band, frames.value, valueOf)
  context.globalAlpha = 1
}

/** Which way the picture goes, as small needles. */
function drawGoing(context: CanvasRenderingContext2D, w: number, looks: TakeLooks): void {
  const middle = bottomOf(2) - LANE / 2
  context.strokeStyle = token('ink')
  context.fillStyle = token('ink')
  context.lineWidth = 1.3
  for (let at = NAMES + 10; at < w - 8; at += 22) {
    const begin = Math.max(0, Math.floor(frameAt(at - 11)))
    const end = Math.min(looks.dx.length, Math.max(begin + 1, Math.floor(frameAt(at + 11))))
    let [dx, dy] = [0, 0]
    for (let frame = begin; frame < end; frame += 1) {
      dx += looks.dx[frame] ?? 0
      dy += looks.dy[frame] ?? 0
    }
    const far = Math.hypot(dx, dy) / Math.max(1, end - begin)
    if (far < 0.15) {
      context.fillRect(at - 1, middle - 1, 2, 2)
      continue
    }
    const length = Math.min(9, 3 + 3 * Math.log2(1 + far))
    const [ux, uy] = [(dx / Math.hypot(dx, dy)) * length, (dy / Math.hypot(dx, dy)) * length]
    context.beginPath()
    context.moveTo(at - ux, middle - uy)
    context.lineTo(at + ux, middle + uy)
    context.stroke()
    context.beginPath()
    context.arc(at + ux, middle + uy, 2, 0, 7)
    context.fill()
  }
}

/** A tick for each new picture, close by; from afar the share of them. */
function drawFresh(context: CanvasRenderingContext2D, w: number, looks: TakeLooks): void {
  const bottom = bottomOf(4)
  context.fillStyle = token('ink-muted')
  if (scale.value >= 3) {
    for (
      let frame = Math.max(0, Math.floor(from.value));
      frame < Math.min(frames.value, to.value + 1);
      frame += 1
    )
      if (looks.fresh[frame]) context.fillRect(x(frame) + 1, bottom - 14, Math.min(2, scale.value - 2), 10)
    return
  }
  context.font = '600 11px "JetBrains Mono Variable", monospace'
  looks.distinct.forEach((stretch, index) => {
    const end = looks.distinct[index + 1]?.begin ?? frames.value
    const [left, right] = [Math.max(NAMES, x(stretch.begin)), Math.min(w, x(end))]
    if (right <= left) return
    context.globalAlpha = 0.25
    context.fillRect(left, bottom - 16, right - left - 1, 12)
    context.globalAlpha = 1
    if (right - left > 60) context.fillText(`${stretch.rate} distinct`, left + 5, bottom - 6)
  })
}

const local = (event: MouseEvent) => event.clientX - (canvas.value?.getBoundingClientRect().left ?? 0)
function scrub(event: PointerEvent): void {
  if (!view.take) return
  const look = (at: PointerEvent) => view.lookAt(Math.floor(frameAt(local(at))))
  look(event)
  drag(event, look, () => undefined)
}
watch(() => [props.looks, from.value, to.value], redraw)

const { dragMoment, momentKeys } = useMomentMoves((event) => frameAt(local(event)))
function grab(event: PointerEvent, moment: Moment): void {
  view.select({ kind: 'moment', take: view.takeId ?? '', moment: moment.id })
  view.lookAt(moment.frame)
  dragMoment(event, moment)
}
const moments = computed(() => (view.take?.moments ?? []).filter((moment) => inView(moment.frame)))
/** What is proposed and can be told apart here, from moments too; what is looked at is one of them. */
const proposed = computed(() => {
  const found = props.proposals.filter((proposal) => inView(proposal.frame))
  const weights = found.map(({ frame, weight }) => (frame === view.takeFrame ? Infinity : weight))
  const all = [...moments.value, ...found]
  const kept = sparse(
    all.map(({ frame }) => x(frame)),
    [...moments.value.map(() => Infinity), ...weights],
    APART,
  )
  return kept.flatMap((index) => found[index - moments.value.length] ?? [])
})
/** Whether a proposal's name has room before what stands next to its right. */
function named(proposal: Proposal): boolean {
  const others = [...moments.value, ...proposed.value].map((other) => x(other.frame))
  return hasRoom(x(proposal.frame), [...others, width.value], NAME)
}
const selects = computed(() => view.take?.selects ?? [])
const remove = (moment: Moment) =>
  void edit.run({ do: 'remove-moment', take: view.take?.id ?? '', moment: moment.id })
</script>

<template>
  <div
    class="relative flex-1 overflow-hidden rounded-md bg-paper"
    :style="{ minHeight: `${HEIGHT}px` }"
    role="group"
    aria-label="Take rail"
    @wheel.prevent="wheel($event, frameAt(local($event)), scale)"
  >
    <canvas ref="canvas" class="absolute inset-0 h-full w-full cursor-ew-resize" @pointerdown="scrub" />
    <template v-if="view.take">
      <button
        v-for="(select, index) in selects"
        :key="select.id"
        class="absolute flex h-4 items-center overflow-hidden rounded-sm bg-[color-mix(in_srgb,var(--slow)_45%,var(--paper))] px-1 text-[11px] font-semibold text-ink"
        :style="{
          left: `${Math.max(NAMES, x(select.begin))}px`,
          width: `${Math.max(6, x(select.end + 1) - Math.max(NAMES, x(select.begin)))}px`,
          top: `${SELECTS + (index % 2) * SELECT}px`,
        }"
        :aria-label="`Select ${select.name || index + 1}, frames ${select.begin} to ${select.end}`"
        @click="view.lookAt(select.begin)"
      >
        {{ select.name || `select ${index + 1}` }}
      </button>
      <button
        v-for="proposal in proposed"
        :key="`${proposal.kind} ${proposal.frame}`"
        class="absolute size-3 -ml-1.5 rounded-full border-2 border-ink-muted bg-paper"
        :style="{ left: `${x(proposal.frame)}px`, top: `${STEM}px` }"
        :aria-label="`Proposed: ${proposal.kind} at frame ${proposal.frame}, ${proposal.why}`"
        :title="`${proposal.kind}: ${proposal.why}. Enter keeps it, Delete drops it.`"
        @click="view.lookAt(proposal.frame)"
      >
        <span
          class="pointer-events-none absolute bottom-full left-1/2 border-l border-dashed border-ink-muted"
          :class="proposed.length > MANY ? 'opacity-35' : ''"
          :style="{ height: `${STEM}px` }"
        />
        <span
          v-if="named(proposal)"
          class="absolute top-1/2 left-[13px] -translate-y-1/2 text-[11px] whitespace-nowrap text-ink-muted"
          >{{ proposal.kind }}?</span
        >
      </button>
      <button
        v-for="moment in moments"
        :key="moment.id"
        class="absolute top-0 z-10 flex w-3 -ml-1.5 cursor-ew-resize flex-col items-center"
        :style="{ left: `${x(moment.frame)}px`, height: `${STEM + KNOB}px` }"
        :aria-label="`Moment ${momentName(moment)}${moment.label ? `, frame ${moment.frame}` : ''}`"
        @pointerdown="grab($event, moment)"
        @keydown="momentKeys($event, moment, () => remove(moment))"
        @focus="view.select({ kind: 'moment', take: view.takeId ?? '', moment: moment.id })"
      >
        <span class="w-0.5 flex-1 bg-tie-ink" />
        <span class="size-3 shrink-0 rounded-full bg-tie-ink" />
        <span
          class="absolute bottom-[-3px] left-[15px] max-w-28 truncate bg-paper pr-1 text-[12px] font-semibold text-ink"
        >
          {{ moment.label || moment.kind }}
        </span>
      </button>
      <div
        v-if="point !== null"
        class="pointer-events-none absolute top-0 h-full w-0.5 bg-good"
        :style="{ left: `${x(point)}px` }"
      />
      <div
        class="pointer-events-none absolute top-0 h-full w-0.5 bg-repeat"
        :style="{ left: `${x(view.takeFrame + 0.5)}px` }"
      />
    </template>
    <TryAgain
      v-if="problem"
      class="absolute right-1 bottom-1"
      :problem="problem"
      what="What was seen in this take could not be loaded."
      @again="$emit('again')"
    />
    <p v-if="!view.take" class="absolute inset-0 grid place-items-center text-ink-muted">
      Choose a take on the shelf to look through it here.
    </p>
  </div>
</template>
