<script setup lang="ts">
/** The clips in output time, coloured by speed. */
import { ref } from 'vue'
import { useAxes } from '@/composables/useAxis'
import { useCanvas } from '@/composables/useCanvas'
import { speedColour, token } from '@/lib/colours'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'

const edit = useEdit()
const view = useView()
const canvas = ref<HTMLCanvasElement | null>(null)

const { width } = useCanvas(canvas, (context, w, height) => {
  context.fillStyle = token('panel')
  context.fillRect(0, 0, w, height)
  for (const clip of edit.derived?.clips ?? []) {
    const start = clip.first / view.outputRate
    let last = ''
    let from = output.value.x(start)
    for (let i = 0; i <= clip.speed.length; i += 1) {
      const colour = i < clip.speed.length ? speedColour(clip.speed[i]!) : ''
      if (colour === last) continue
      const to = output.value.x(start + i / view.outputRate)
      if (last && to > 0 && from < w) {
        context.fillStyle = last
        context.fillRect(from, 2, to - from + 0.5, height - 4)
      }
      last = colour
      from = to
    }
  }
})
const { output } = useAxes(width)

const nameOf = (id: string) => {
  const take = edit.clips.find((clip) => clip.id === id)?.take
  return edit.takes.find((other) => other.id === take)?.media.name ?? id
}
const box = (clip: { first: number; source: number[] }) => {
  const left = output.value.x(clip.first / view.outputRate)
  const right = output.value.x((clip.first + clip.source.length) / view.outputRate)
  return { transform: `translateX(${left}px)`, width: `${right - left}px` }
}
const choose = (id: string) => view.choose(edit.clips.find((clip) => clip.id === id)?.take ?? null)
</script>

<template>
  <div class="relative h-[30px] overflow-hidden" role="group" aria-label="Clips">
    <canvas ref="canvas" class="absolute inset-0 h-full w-full" />
    <button
      v-for="clip in edit.derived?.clips ?? []"
      :key="clip.id"
      class="absolute inset-y-0 left-0 truncate px-2 text-left font-semibold text-white"
      :style="box(clip)"
      :aria-label="`Clip ${nameOf(clip.id)}`"
      @click="choose(clip.id)"
    >
      <span class="rounded bg-black/45 px-1.5 py-0.5">{{ nameOf(clip.id) }}</span>
    </button>
  </div>
</template>
