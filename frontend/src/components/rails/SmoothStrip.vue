<script setup lang="ts">
/**
 * What each frame is made of: where pictures repeat (solid), where they are passed over (a short line), and where
 * they blend (a line below), blur (a line above) or flow (both; faint while the preview has no flow of them).
 */
import { computed, ref } from 'vue'
import { useAxes } from '@/composables/useAxis'
import { useCanvas } from '@/composables/useCanvas'
import { flows } from '@/composables/useFlow'
import { token } from '@/lib/colours'
import { howOn, pairOn, type How } from '@/lib/stack'
import { useView } from '@/stores/view'

const view = useView()
const canvas = ref<HTMLCanvasElement | null>(null)
/** In place of a step: the clip lies under another one there. */
const HIDDEN = -1
const steps = computed(() => Array.from(view.derivedClip?.steps ?? []))
const facts = computed(() => view.derivedClip?.smoothness)
const repeats = computed(() => facts.value?.repeats ?? 0)
const skips = computed(() => facts.value?.skips ?? 0)
/** Repeats in words: an even beat is told apart from a stutter. */
const said = computed(() => {
  if (!repeats.value) return 'no repeats'
  const { even, longest } = facts.value!
  if (even) return `each picture ${Number.isInteger(even) ? even : even.toFixed(2)} frames, evenly`
  return `${repeats.value} ${repeats.value === 1 ? 'repeat' : 'repeats'}${longest > 1 ? `, ${longest} in a row` : ''}`
})

const title = computed(() =>
  [
    made.value &&
      'A line below: blended; above: blurred; both: moved by flow; a box: kept clean before a hit or a cut',
    repeats.value && 'Click: to the worst place',
  ]
    .filter(Boolean)
    .join('. '),
)

function toWorst(): void {
  if (facts.value?.worst != null) view.seekFrame(facts.value.worst)
}
/** How many frames are made of more than one picture, in words. */
const made = computed(() => {
  const clip = view.derivedClip
  if (!clip?.mix) return ''
  const count = (...hows: How[]) =>
    steps.value.filter((step, i) => step !== HIDDEN && hows.includes(howOn(clip.mix, clip.first + i))).length
  const counts = [
    `${count('draft', 'fine')} flow`,
    `${count('blend')} blend`,
    `${count('still')} blend (hardly moves)`,
    `${count('far')} blend (moves too far for flow)`,
    `${count('blur')} blur`,
    `${count('guarded')} kept clean`,
  ]
  return counts.filter((each) => !each.startsWith('0')).join(', ')
})
/** Whether the preview can show the flow of an output frame. */
function isReady(n: number): boolean {
  const pair = view.derivedClip?.mix && pairOn(view.derivedClip.mix, n)
  const sha256 = view.take?.media.sha256
  return !!pair && !!sha256 && flows.ready(sha256, pair) !== undefined
}
const hidden = computed(() => steps.value.filter((step) => step === HIDDEN).length)

const { width } = useCanvas(canvas, (context, w, height) => {
  context.fillStyle = token('paper')
  context.fillRect(0, 0, w, height)
  const clip = view.derivedClip
  if (!clip) return
  void flows.count.value
  const perFrame = frames.value.scale
  steps.value.forEach((step, i) => {
    const x = frames.value.x(clip.first + i)
    if (x < -perFrame || x > w) return
    if (step === HIDDEN) {
      context.fillStyle = token('paper-line')
      return context.fillRect(x, 0, perFrame + 0.5, height)
    }
    drawMade(context, howOn(clip.mix, clip.first + i), clip.first + i, x, perFrame, height)
    if (step === 1) return
    context.fillStyle = token(step === 0 ? 'repeat' : 'mid')
    const tall = step === 0 ? height - 4 : 4
    context.fillRect(x, (height - tall) / 2, Math.max(1, perFrame * 0.7), tall)
  })
})
const { frames } = useAxes(width)

function drawMade(
  context: CanvasRenderingContext2D,
  how: How,
  n: number,
  x: number,
  wide: number,
  high: number,
): void {
  if (how === 'as it is') return
  if (how === 'guarded') return drawClean(context, x, wide, high)
  const isFlow = how === 'draft' || how === 'fine'
  context.fillStyle = token('slow')
  context.globalAlpha = isFlow && !isReady(n) ? 0.35 : 1
  if (isFlow || how === 'blur') context.fillRect(x, 2, Math.max(1, wide * 0.7), 3)
  if (how !== 'blur') context.fillRect(x, high - 5, Math.max(1, wide * 0.7), 3)
  context.globalAlpha = 1
}

/** A frame that nothing of the next one is mixed into: a hollow box. */
function drawClean(context: CanvasRenderingContext2D, x: number, wide: number, high: number): void {
  context.strokeStyle = token('slow')
  context.strokeRect(x + 0.5, 2.5, Math.max(1, wide * 0.7 - 1), high - 5)
}
</script>

<template>
  <button
    class="relative block h-[18px] w-full cursor-pointer overflow-hidden rounded-b-md"
    :disabled="!repeats"
    :aria-label="view.derivedClip ? undefined : 'No clip, no repeats'"
    :title="title"
    @click="toWorst"
  >
    <canvas ref="canvas" class="absolute inset-0 h-full w-full" />
    <span
      v-if="view.derivedClip"
      class="num pointer-events-none absolute top-px right-1 rounded-sm bg-paper/90 px-1 text-[11px] leading-4 font-semibold"
      :class="repeats && !facts?.even ? 'text-repeat' : 'text-ink-muted'"
    >
      <template v-if="made">{{ made }} · </template>{{ said
      }}<template v-if="skips"> · {{ skips }} skips</template
      ><template v-if="hidden"> · {{ hidden }} hidden</template>
    </span>
  </button>
</template>
