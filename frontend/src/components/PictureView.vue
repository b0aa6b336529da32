<script setup lang="ts">
/** The picture: what the edit plays, or the frame of a take that is looked at. */
import { computed, inject, ref, watch } from 'vue'
import AssetStatus from '@/components/AssetStatus.vue'
import { useCanvas } from '@/composables/useCanvas'
import { pictures } from '@/composables/usePack'
import { PLAYBACK, SCREEN } from '@/composables/keys'
import { token } from '@/lib/colours'
import { useEdit } from '@/stores/edit'
import { useLibrary } from '@/stores/library'
import { useView } from '@/stores/view'

const edit = useEdit()
const view = useView()
const library = useLibrary()
const screen = inject(SCREEN)!
const playback = inject(PLAYBACK)!
const canvas = ref<HTMLCanvasElement | null>(null)
let bitmap: ImageBitmap | null = null

const { paint } = useCanvas(canvas, (context, width, height) => {
  context.fillStyle = token('ground')
  context.fillRect(0, 0, width, height)
  if (!bitmap?.width) return
  const clip = view.looking === 'edit' ? edit.clipById.get(view.shown?.clip ?? '') : undefined
  // What is looked at by itself is seen whole; in the edit it has the edit's proportions.
  const aspect = clip && edit.edit ? edit.edit.width! / edit.edit.height! : bitmap.width / bitmap.height
  const wide = Math.min(width, height * aspect)
  const box = { x: (width - wide) / 2, y: (height - wide / aspect) / 2, w: wide, h: wide / aspect }
  const sides = [box.w / bitmap.width, box.h / bitmap.height]
  const scale = clip?.fit === 'fill' ? Math.max(...sides) : Math.min(...sides)
  const [w, h] = [bitmap.width * scale, bitmap.height * scale]
  context.save()
  context.beginPath()
  context.rect(box.x, box.y, box.w, box.h)
  context.clip()
  if (clip && clip.fit !== 'fill') {
    context.fillStyle = 'black'
    context.fillRect(box.x, box.y, box.w, box.h)
  }
  const [across, down] = [clip?.across ?? 0.5, clip?.down ?? 0.5]
  context.drawImage(bitmap, box.x + (box.w - w) * across, box.y + (box.h - h) * down, w, h)
  context.restore()
})

screen.show = (next) => {
  bitmap = next
  paint()
}

/** The take and the frame that should be seen while nothing plays. */
const wanted = computed(() => {
  if (view.looking === 'take' && view.take) return { media: view.take.media, frame: view.takeFrame }
  const clip = edit.clipById.get(view.shown?.clip ?? '')
  const take = edit.takes.find((other) => other.id === clip?.take)
  return take && view.shown ? { media: take.media, frame: view.shown.source } : null
})

/** The take that is wanted, while its small pictures are being made. */
const making = computed(() =>
  library.takes.find((asset) => asset.sha256 === wanted.value?.media.sha256 && asset.state === 'reading'),
)

watch(
  [wanted, () => making.value === undefined],
  async ([now]) => {
    if (playback.stats.playing) return
    const found = now?.media.sha256 ? await pictures.get(now.media.sha256, now.frame) : null
    if (wanted.value === now && !playback.stats.playing) screen.show(found)
  },
  { immediate: true },
)

const caption = computed(() => {
  if (!wanted.value) return edit.clips.length ? 'no clip here: black' : ''
  return `take frame ${wanted.value.frame}`
})
</script>

<template>
  <div class="relative min-h-0 min-w-0 overflow-hidden rounded-lg bg-ground">
    <canvas
      ref="canvas"
      class="absolute inset-0 h-full w-full"
      role="img"
      :aria-label="`Picture, ${caption}`"
    />
    <p
      v-if="!wanted && !edit.clips.length"
      class="absolute inset-0 grid place-items-center p-8 text-center text-muted"
    >
      Nothing to see yet. Choose a take on the shelf.
    </p>
    <p
      v-if="making"
      class="absolute inset-x-0 top-1/2 text-center [&>span]:inline! [&>span]:rounded [&>span]:bg-black/60 [&>span]:px-2 [&>span]:py-1"
    >
      <AssetStatus :asset="making" />
    </p>
    <div
      v-if="!playback.stats.playing"
      class="num pointer-events-none absolute inset-x-2 bottom-2 flex h-6 [contain:strict] items-center justify-between gap-2 text-[13px]"
    >
      <span class="truncate rounded bg-black/60 px-1.5 font-semibold text-white">
        {{ view.looking === 'take' ? 'take view' : `frame ${view.frame}` }}
      </span>
      <span v-if="caption" class="truncate rounded bg-black/60 px-1.5 text-white">{{ caption }}</span>
    </div>
  </div>
</template>
