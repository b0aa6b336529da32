<script setup lang="ts">
/** Where pictures repeat (solid) and where they are passed over (fine lines above). */
import { computed, ref } from 'vue'
import { useAxes } from '@/composables/useAxis'
import { useCanvas } from '@/composables/useCanvas'
import { token } from '@/lib/colours'
import { useView } from '@/stores/view'

const view = useView()
const canvas = ref<HTMLCanvasElement | null>(null)
const repeats = computed(() => view.derivedClip?.steps.filter((step) => step === 0).length ?? 0)
const skips = computed(() => view.derivedClip?.steps.filter((step) => step > 1).length ?? 0)

const { width } = useCanvas(canvas, (context, w, height) => {
  context.fillStyle = token('paper')
  context.fillRect(0, 0, w, height)
  const clip = view.derivedClip
  if (!clip) return
  const perFrame = output.value.x(1 / view.outputRate) - output.value.x(0)
  clip.steps.forEach((step, i) => {
    const x = output.value.x((clip.first + i) / view.outputRate)
    if (x < -perFrame || x > w || step === 1) return
    context.fillStyle = token(step === 0 ? 'repeat' : 'mid')
    const tall = step === 0 ? height - 4 : 4
    context.fillRect(x, (height - tall) / 2, Math.max(1, perFrame * 0.7), tall)
  })
})
const { output } = useAxes(width)
</script>

<template>
  <div
    class="relative h-[18px] overflow-hidden rounded-b-md"
    role="img"
    :aria-label="`${repeats} repeats, ${skips} skips`"
  >
    <canvas ref="canvas" class="absolute inset-0 h-full w-full" />
    <span
      v-if="view.derivedClip"
      class="num pointer-events-none absolute top-px right-1 rounded-sm bg-paper/90 px-1 text-[11px] leading-4 font-semibold"
      :class="repeats ? 'text-repeat' : 'text-ink-muted'"
    >
      {{ repeats ? `${repeats} repeats` : 'no repeats'
      }}<template v-if="skips"> · {{ skips }} skips</template>
    </span>
  </div>
</template>
