<script setup lang="ts">
/** The shape that a clip is revealed through, as it is drawn: its point, its size, its corners. */
import { computed } from 'vue'
import type { Clip, Command } from '@/api/client'
import { useLying } from '@/composables/useLying'
import type { Box } from '@/lib/composer'
import { seenAt, type Point } from '@/lib/lying'
import { revealOf, type Reveal } from '@/lib/reveals'
import { trackedAt } from '@/lib/tracks'
import { useEdit } from '@/stores/edit'
import FrameOutline from './FrameOutline.vue'
import PictureHandle from './PictureHandle.vue'

const props = defineProps<{ clip: Clip; box: Box }>()
const edit = useEdit()
const reveal = computed(() => revealOf(props.clip))
const { takeSeen } = useLying()
/** Where the shape stands: at its own point, or at the tracked one where that is seen. */
const middle = computed<Point>(() => {
  const { track: id, x, y } = reveal.value
  const take = edit.takes.find(({ tracks }) => tracks?.some((each) => each.id === id))
  const seen = take && takeSeen(take.id)
  const track = take?.tracks?.find((each) => each.id === id)
  return track && seen ? seenAt(trackedAt(track, seen.frame), seen.lying) : { x, y }
})
const saying = (values: Partial<Reveal>): Command => ({
  do: 'overlap-clips',
  clip: props.clip.id,
  frames: props.clip.overlap!.frames,
  reveal: { ...reveal.value, ...values },
})
const say = (values: Partial<Reveal>) => void edit.run(saying(values))
const tryOut = (values: Partial<Reveal>) => void edit.dryRun(saying(values))

const STEPS = 72
const outline = computed<Point[]>(() => {
  const { shape, width, height, corners } = reveal.value
  const { x, y } = middle.value
  if (shape === 'polygon') return corners.map((corner) => ({ x: x + corner.x, y: y + corner.y }))
  if (shape === 'box')
    return [
      [-1, -1],
      [1, -1],
      [1, 1],
      [-1, 1],
    ].map(([a, b]) => ({ x: x + (a! * width) / 2, y: y + (b! * height) / 2 }))
  return Array.from({ length: STEPS }, (_, step) => {
    const angle = (step * 2 * Math.PI) / STEPS
    return { x: x + (Math.cos(angle) * width) / 2, y: y + (Math.sin(angle) * height) / 2 }
  })
})
const within = (part: number) => Math.min(1, Math.max(0, part))
const size = (part: number) => Math.min(1, Math.max(0.02, 2 * Math.abs(part)))
const moved = ({ x, y }: Point) => ({ x: within(x), y: within(y) })
const sized = (at: Point) => ({ width: size(at.x - middle.value.x), height: size(at.y - middle.value.y) })
const beside = (part: number) => Math.min(1, Math.max(-1, part))
function cornered(index: number, at: Point) {
  const corners = [...reveal.value.corners]
  corners[index] = { x: beside(at.x - middle.value.x), y: beside(at.y - middle.value.y) }
  return { corners }
}
const without = (index: number) => ({ corners: reveal.value.corners.filter((_, at) => at !== index) })
</script>

<template>
  <FrameOutline :box="box" :points="outline" />
  <PictureHandle
    v-if="!reveal.track"
    label="Point of the reveal"
    :at="middle"
    :box="box"
    @input="tryOut(moved($event))"
    @change="say(moved($event))"
  />
  <PictureHandle
    v-if="reveal.shape !== 'polygon'"
    label="Size of the reveal"
    look="corner"
    :at="{ x: middle.x + reveal.width / 2, y: middle.y + reveal.height / 2 }"
    :box="box"
    @input="tryOut(sized($event))"
    @change="say(sized($event))"
  />
  <template v-else>
    <PictureHandle
      v-for="(corner, index) in outline"
      :key="index"
      :label="`Corner ${index + 1} of the reveal`"
      look="corner"
      :at="corner"
      :box="box"
      @input="tryOut(cornered(index, $event))"
      @change="say(cornered(index, $event))"
      @remove="reveal.corners.length > 3 && say(without(index))"
    />
  </template>
</template>
