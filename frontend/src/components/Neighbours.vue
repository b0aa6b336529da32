<script setup lang="ts">
/** The frame at hand between its neighbours, to find the first frame of a hit. */
import { computed, ref, watch } from 'vue'
import { packOf } from '@/composables/usePack'
import type { MomentKind } from '@/api/client'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'

const OFFSETS = [-2, -1, 0, 1, 2]
const edit = useEdit()
const view = useView()
const canvases = ref<HTMLCanvasElement[]>([])
const marked = computed(() => view.take?.moments?.find((moment) => moment.frame === view.takeFrame))
const inTake = (frame: number) => frame >= 0 && frame < (view.take?.frames ?? 0)

watch(
  () => [view.take?.media.sha256, view.takeFrame, canvases.value.length] as const,
  async ([sha256, frame]) => {
    if (!sha256) return
    await Promise.all(OFFSETS.map((offset, index) => paint(sha256, frame, offset, index)))
  },
  { immediate: true, flush: 'post' },
)

async function paint(sha256: string, frame: number, offset: number, index: number): Promise<void> {
  const canvas = canvases.value[index]
  const context = canvas?.getContext('2d')
  if (!canvas || !context) return
  const bitmap = inTake(frame + offset) ? await packOf(sha256).get(frame + offset) : null
  if (view.takeFrame !== frame) return
  canvas.width = 2 * canvas.clientWidth
  canvas.height = 2 * canvas.clientHeight
  if (!bitmap?.width) return context.clearRect(0, 0, canvas.width, canvas.height)
  const scale = Math.min(canvas.width / bitmap.width, canvas.height / bitmap.height)
  const [width, height] = [bitmap.width * scale, bitmap.height * scale]
  context.drawImage(bitmap, (canvas.width - width) / 2, (canvas.height - height) / 2, width, height)
}

function mark(kind: MomentKind): void {
  const take = view.take
  if (!take) return
  const command = marked.value
    ? ({ do: 'change-moment', take: take.id, moment: marked.value.id, kind } as const)
    : ({ do: 'add-moment', take: take.id, frame: view.takeFrame, kind } as const)
  void edit.run(command)
}
defineExpose({ mark })
</script>

<template>
  <section class="min-w-0" aria-label="Frame neighbours">
    <div class="mb-1 flex items-center justify-between gap-2">
      <h2 class="heading truncate">Is this the first frame of the hit?</h2>
      <span v-if="marked" class="truncate font-semibold text-brass">{{ marked.label || marked.kind }}</span>
    </div>
    <div class="grid grid-cols-5 gap-1.5">
      <button
        v-for="(offset, index) in OFFSETS"
        :key="offset"
        class="rounded bg-panel p-0.5"
        :class="offset === 0 ? 'ring-2 ring-brass' : ''"
        :disabled="!view.take || !inTake(view.takeFrame + offset)"
        :aria-label="
          offset === 0 ? `Frame ${view.takeFrame}` : `${Math.abs(offset)} ${offset < 0 ? 'before' : 'after'}`
        "
        @click="view.lookAt(view.takeFrame + offset)"
      >
        <canvas
          :ref="(el) => (canvases[index] = el as HTMLCanvasElement)"
          class="aspect-video w-full rounded-sm bg-ground"
        />
        <span class="num block text-[12px]" :class="offset === 0 ? 'font-bold text-brass' : 'text-muted'">
          {{ offset === 0 ? (view.take ? view.takeFrame : '–') : offset > 0 ? `+${offset}` : `−${-offset}` }}
        </span>
      </button>
    </div>
    <div class="mt-1.5 flex flex-wrap items-center gap-1.5" role="group" aria-label="Mark this frame">
      <span class="text-muted">Mark as</span>
      <button
        v-for="kind in ['impact', 'start', 'end', 'action'] as const"
        :key="kind"
        class="btn min-h-6! px-2! py-0.5!"
        :class="marked?.kind === kind ? 'text-brass!' : ''"
        :disabled="!view.take"
        :title="kind === 'impact' ? 'The first frame of the hit (H)' : undefined"
        @click="mark(kind)"
      >
        {{ kind }}
      </button>
    </div>
  </section>
</template>
