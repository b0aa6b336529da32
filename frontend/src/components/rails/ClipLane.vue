<script setup lang="ts">
/** The clips in output time, coloured by speed. */
import { computed, ref } from 'vue'
import type { DerivedClip } from '@/api/client'
import { useAxes } from '@/composables/useAxis'
import { useCanvas } from '@/composables/useCanvas'
import { speedColour, token } from '@/lib/colours'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'
import ClipBox from './ClipBox.vue'

/** Pixels between two strokes. */
const HATCH = 6
const edit = useEdit()
const view = useView()
const canvas = ref<HTMLCanvasElement | null>(null)

/** Those in view: an edit has hundreds, a screen shows some. */
const seen = computed(() => {
  const [from, to] = [edit.clock.at(view.from), edit.clock.at(view.to)]
  return (edit.derived?.clips ?? []).filter(
    (clip) => clip.first + clip.source.length > from && clip.first < to,
  )
})

const { width } = useCanvas(canvas, (context, w, height) => {
  context.fillStyle = token('panel')
  context.fillRect(0, 0, w, height)
  for (const clip of seen.value) drawClip(context, clip, w, height)
})
const { frames } = useAxes(width)

/** Pixel by pixel where frames are narrower than pixels, else frame by frame. */
function drawClip(context: CanvasRenderingContext2D, clip: DerivedClip, w: number, height: number): void {
  const x = (frame: number) => frames.value.x(clip.first + frame)
  const step = Math.max(1, Math.floor(1 / (x(1) - x(0))))
  for (let i = 0; i < clip.speed.length; i += step) {
    const [from, to] = [x(i), x(Math.min(clip.speed.length, i + step))]
    if (to < 0 || from > w) continue
    context.fillStyle = speedColour(clip.speed[i]!)
    context.fillRect(from, 2, to - from + 0.5, height - 4)
    if (clip.speed[i]! < 0) hatch(context, from, to, height)
  }
}

/** Backwards is hatched: a colour alone would not tell. */
function hatch(context: CanvasRenderingContext2D, from: number, to: number, height: number): void {
  context.strokeStyle = token('panel')
  context.lineWidth = 1.5
  context.beginPath()
  for (let x = Math.ceil(from / HATCH) * HATCH; x < to; x += HATCH) {
    context.moveTo(x, height - 2)
    context.lineTo(x + HATCH, 2)
  }
  context.stroke()
}
</script>

<template>
  <div class="relative h-[30px] overflow-hidden" role="group" aria-label="Clips">
    <canvas ref="canvas" class="absolute inset-0 h-full w-full" />
    <ClipBox v-for="clip in seen" :key="clip.id" :clip="clip" :axis="frames" :width="width" />
  </div>
</template>
