<script setup lang="ts">
/** Tracked points of a take where they are seen: the one at hand is placed, a new one is set. */
import { computed } from 'vue'
import { useLying } from '@/composables/useLying'
import type { Box } from '@/lib/composer'
import { readAt, seenAt, type Point } from '@/lib/lying'
import { trackedAt } from '@/lib/tracks'
import { useEdit } from '@/stores/edit'
import { useOnPicture } from '@/stores/onPicture'
import FrameOutline from './FrameOutline.vue'
import PictureEye from './PictureEye.vue'

const props = defineProps<{ take: string; track: string | null; box: Box }>()
const edit = useEdit()
const onPicture = useOnPicture()
const { takeSeen } = useLying()
const seen = computed(() => takeSeen(props.take))
const tracks = computed(() => edit.takes.find(({ id }) => id === props.take)?.tracks ?? [])
const track = computed(() => tracks.value.find(({ id }) => id === props.track))
const MIDDLE: Point = { x: 0.5, y: 0.5 }
const at = computed<Point>(() => {
  if (!seen.value) return MIDDLE
  return track.value ? seenAt(trackedAt(track.value, seen.value.frame), seen.value.lying) : MIDDLE
})
/** The way of the point around the frame that is looked at, as it lies in this picture. */
const AROUND = 45
const way = computed(() => {
  const { points = [] } = track.value ?? {}
  if (!seen.value || points.length < 2) return []
  const { frame, lying } = seen.value
  const [first, last] = [points[0]!.frame, points.at(-1)!.frame]
  const frames = Array.from({ length: 2 * AROUND + 1 }, (_, step) => frame - AROUND + step)
  return frames
    .filter((each) => each >= first && each <= last)
    .map((each) => seenAt(trackedAt(track.value!, each), lying))
})

async function put(to: Point): Promise<void> {
  if (!seen.value) return
  const { frame, lying } = seen.value
  const { x, y } = readAt(to, lying)
  const { take } = props
  if (track.value)
    return void (await edit.run({ do: 'set-track-point', take, track: track.value.id, frame, x, y }))
  const known = new Set(tracks.value.map(({ id }) => id))
  if (!(await edit.run({ do: 'save-track', take, points: [{ frame, x, y }] }))) return
  const made = tracks.value.find(({ id }) => !known.has(id))
  if (made) onPicture.tool = { kind: 'point', take, track: made.id }
}
</script>

<template>
  <template v-if="seen">
    <FrameOutline v-if="way.length > 1" :box="box" :points="way" open />
    <PictureEye :label="track ? `Point ${track.name}` : 'New point'" :at="at" :box="box" @change="put" />
  </template>
  <p v-else class="absolute inset-x-0 top-2 text-center">
    <span class="rounded bg-black/70 px-2 py-1 text-white">The take is not seen on this frame.</span>
  </p>
</template>
