<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { packOf } from '@/composables/usePack'

const props = defineProps<{ sha256: string; frame: number }>()
const canvas = ref<HTMLCanvasElement | null>(null)

onMounted(async () => {
  const bitmap = await packOf(props.sha256).thumbnail(props.frame)
  const target = canvas.value
  if (!bitmap || !target) return
  target.width = 2 * target.clientWidth
  target.height = 2 * target.clientHeight
  const scale = Math.max(target.width / bitmap.width, target.height / bitmap.height)
  const [width, height] = [bitmap.width * scale, bitmap.height * scale]
  target
    .getContext('2d')
    ?.drawImage(bitmap, (target.width - width) / 2, (target.height - height) / 2, width, height)
  bitmap.close()
})
</script>

<template>
  <canvas ref="canvas" class="rounded bg-ground" aria-hidden="true" />
</template>
