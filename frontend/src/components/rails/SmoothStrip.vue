<script setup lang="ts">
/** Where pictures repeat (solid) and where they are passed over (fine lines above). */
import { computed, ref } from 'vue'
import { useAxes } from '@/composables/useAxis'
import { useCanvas } from '@/composables/useCanvas'
import { token } from '@/lib/colours'
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

function toWorst(): void {
  if (facts.value?.worst != null) view.seekFrame(facts.value.worst)
}
const hidden = computed(() => steps.value.filter((step) => step === HIDDEN).length)

const { width } = useCanvas(canvas, (context, w, height) => {
  context.fillStyle = token('paper')
  context.fillRect(0, 0, w, height)
  const clip = view.derivedClip
  if (!clip) return
  const perFrame = frames.value.scale
  steps.value.forEach((step, i) => {
    const x = frames.value.x(clip.first + i)
    if (x < -perFrame || x > w || step === 1) return
    if (step === HIDDEN) {
      context.fillStyle = token('paper-line')
      return context.fillRect(x, 0, perFrame + 0.5, height)
    }
    context.fillStyle = token(step === 0 ? 'repeat' : 'mid')
    const tall = step === 0 ? height - 4 : 4
    context.fillRect(x, (height - tall) / 2, Math.max(1, perFrame * 0.7), tall)
  })
})
const { frames } = useAxes(width)
</script>

<template>
  <button
    class="relative block h-[18px] w-full cursor-pointer overflow-hidden rounded-b-md"
    :disabled="!repeats"
    :aria-label="view.derivedClip ? undefined : 'No clip, no repeats'"
    :title="repeats ? 'To the worst place' : ''"
    @click="toWorst"
  >
    <canvas ref="canvas" class="absolute inset-0 h-full w-full" />
    <span
      v-if="view.derivedClip"
      class="num pointer-events-none absolute top-px right-1 rounded-sm bg-paper/90 px-1 text-[11px] leading-4 font-semibold"
      :class="repeats && !facts?.even ? 'text-repeat' : 'text-ink-muted'"
    >
      {{ said }}<template v-if="skips"> · {{ skips }} skips</template
      ><template v-if="hidden"> · {{ hidden }} hidden</template>
    </span>
  </button>
</template>
