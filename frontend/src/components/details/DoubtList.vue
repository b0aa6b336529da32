<script setup lang="ts">
/** Frames of a clip whose flow is to be doubted, the worst first, and those over which nothing is mixed. */
import { computed } from 'vue'
import type { Clip } from '@/api/client'
import { useDoubts } from '@/composables/useDoubts'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'

const props = defineProps<{ clip: Clip }>()
const MOST = 5
const edit = useEdit()
const view = useView()
const doubts = useDoubts(() => props.clip.id)
const take = computed(() => edit.takeOf(props.clip.id))
/** Of the take's, those that the clip comes to. */
const breaks = computed(() => {
  const asked = take.value?.breaks ?? []
  if (!asked.length) return []
  const source = Array.from(edit.derivedById.get(props.clip.id)?.source ?? [])
  return asked.filter((frame) => source.some((at) => at < frame) && source.some((at) => at >= frame))
})
const setBreak = (frame: number, again: boolean) =>
  edit.run({ do: 'set-break', take: props.clip.take, frame, again })

function look(n: number): void {
  view.seekFrame(n)
  view.splitBeside('take')
}
</script>

<template>
  <section v-if="doubts.length || breaks.length" aria-label="Doubtful frames">
    <p class="text-muted">
      {{ doubts.length ? 'Doubtful flow: how much of the picture' : 'Not mixed' }}
    </p>
    <ul class="num" aria-label="Frames to look at">
      <li v-for="doubt in doubts.slice(0, MOST)" :key="doubt.source" class="flex items-center gap-2">
        <button
          class="min-w-0 flex-1 truncate rounded px-1 text-left hover:bg-raised"
          title="See it beside the take's own frame"
          @click="look(doubt.n)"
        >
          Frame {{ doubt.n }}: {{ Math.round(doubt.astray * 100) }} %
        </button>
        <button
          class="btn min-h-6! px-2! py-0!"
          :aria-label="`Do not mix frame ${doubt.n}`"
          @click="setBreak(doubt.source, false)"
        >
          Do not mix
        </button>
      </li>
      <li v-for="frame in breaks" :key="`break ${frame}`" class="flex items-center gap-2">
        <span class="min-w-0 flex-1 truncate px-1">Not mixed into take frame {{ frame }}</span>
        <button
          class="btn min-h-6! px-2! py-0!"
          :aria-label="`Mix take frame ${frame} again`"
          @click="setBreak(frame, true)"
        >
          Mix again
        </button>
      </li>
    </ul>
    <p v-if="doubts.length > MOST" class="text-muted">and {{ doubts.length - MOST }} more</p>
  </section>
</template>
