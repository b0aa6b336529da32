<script setup lang="ts">
/** A clip's picture moved, grown and turned on the picture: its middle, and a knob out from there. */
import { computed, toRef } from 'vue'
import type { Clip } from '@/api/client'
import { useFraming } from '@/composables/useFraming'
import { useLying } from '@/composables/useLying'
import type { Box } from '@/lib/composer'
import { seenAt, type Point } from '@/lib/lying'
import FrameOutline from './FrameOutline.vue'
import PictureHandle from './PictureHandle.vue'

const props = defineProps<{ clip: Clip; box: Box }>()
const { lyingOf } = useLying()
const { current, say, tryOut, isSet, addHere } = useFraming(toRef(props, 'clip'))
/** How far out the knob of a picture as large as it fills the frame is, in parts of the frame's height. */
const ARM = 0.22
const lying = computed(() => lyingOf(props.clip.id))
const framed = computed(() => {
  const { x = 0, y = 0, scale = 1, turn = 0 } = current.value ?? lying.value?.framed ?? {}
  return { x, y, scale, turn }
})
const middle = computed<Point>(() => ({ x: 0.5 + framed.value.x, y: 0.5 + framed.value.y }))
const inView = (part: number) => Math.min(0.97, Math.max(0.03, part))
const knob = computed<Point>(() => {
  const { scale, turn } = framed.value
  const [radians, far] = [(turn * Math.PI) / 180, ARM * Math.sqrt(scale)]
  return {
    x: inView(middle.value.x) + (far * Math.cos(radians) * props.box.h) / props.box.w,
    y: inView(middle.value.y) + far * Math.sin(radians),
  }
})
const CORNERS = [
  { x: 0, y: 0 },
  { x: 1, y: 0 },
  { x: 1, y: 1 },
  { x: 0, y: 1 },
]
const outline = computed(() => (lying.value ? CORNERS.map((corner) => seenAt(corner, lying.value!)) : []))
const moved = ({ x, y }: Point) => ({
  x: Math.max(-2, Math.min(2, framed.value.x + x - inView(middle.value.x))),
  y: Math.max(-2, Math.min(2, framed.value.y + y - inView(middle.value.y))),
})
function bent(at: Point) {
  const across = ((at.x - inView(middle.value.x)) * props.box.w) / props.box.h
  const down = at.y - inView(middle.value.y)
  const turn = (Math.atan2(down, across) * 180) / Math.PI
  // On from where it was turned to: a whole turn more stays one.
  const whole = 360 * Math.round((framed.value.turn - turn) / 360)
  const scale = (Math.hypot(across, down) / ARM) ** 2
  return { turn: +(turn + whole).toFixed(2), scale: Math.max(0.05, Math.min(10, scale)) }
}
</script>

<template>
  <FrameOutline :box="box" :points="outline" />
  <template v-if="isSet">
    <FrameOutline :box="box" :points="[{ x: inView(middle.x), y: inView(middle.y) }, knob]" open />
    <PictureHandle
      label="Middle of the picture"
      :at="{ x: inView(middle.x), y: inView(middle.y) }"
      :box="box"
      @input="tryOut(moved($event))"
      @change="say(moved($event))"
    />
    <PictureHandle
      label="Size and turn of the picture"
      look="corner"
      :at="knob"
      :box="box"
      @input="tryOut(bent($event))"
      @change="say(bent($event))"
    />
  </template>
  <button v-else class="btn absolute top-2 left-1/2 -translate-x-1/2" @click="addHere">Set a key here</button>
</template>
