<script setup lang="ts">
/** An inset moved and made larger on the picture. */
import { computed } from 'vue'
import type { Clip, Command } from '@/api/client'
import type { Box } from '@/lib/composer'
import { drag } from '@/lib/drag'
import { insetOf, type Inset } from '@/lib/insets'
import type { Point } from '@/lib/lying'
import { useEdit } from '@/stores/edit'
import PictureHandle from './PictureHandle.vue'

const props = defineProps<{ clip: Clip; box: Box }>()
const edit = useEdit()
const inset = computed(() => insetOf(props.clip))
type Values = Partial<Pick<Inset, 'x' | 'y' | 'width' | 'height'>>
const saying = (values: Values): Command => ({ do: 'inset-clip', clip: props.clip.id, ...values })
const say = (values: Values) => void edit.run(saying(values))
const tryOut = (values: Values) => void edit.dryRun(saying(values))

const within = (part: number) => Math.min(1, Math.max(0, part))
const moved = ({ x, y }: Point): Values => ({ x: within(x), y: within(y) })
const corner = computed<Point>(() => ({
  x: inset.value.x + inset.value.width / 2,
  y: inset.value.y + inset.value.height / 2,
}))
/** The corner is pulled about the one across from it, so that this one stays. */
function sized({ x, y }: Point): Values {
  const size = (part: number) => Math.min(1, Math.max(0.02, part))
  const [left, top] = [inset.value.x - inset.value.width / 2, inset.value.y - inset.value.height / 2]
  const [width, height] = [size(x - left), size(y - top)]
  return { x: within(left + width / 2), y: within(top + height / 2), width, height }
}
function grab(event: PointerEvent): void {
  const { box } = props
  const { x, y } = inset.value
  const to = (now: PointerEvent) =>
    moved({ x: x + (now.clientX - event.clientX) / box.w, y: y + (now.clientY - event.clientY) / box.h })
  drag(
    event,
    (now) => tryOut(to(now)),
    (was, now) => was && say(to(now)),
  )
}
</script>

<template>
  <div
    class="absolute cursor-move touch-none border-[1.5px] border-dashed border-brass shadow-[0_0_0_1px_rgb(0_0_0/0.6)]"
    :class="inset.shape === 'ellipse' ? 'rounded-[50%]' : ''"
    :style="{
      left: `${box.x + box.w * (inset.x - inset.width / 2)}px`,
      top: `${box.y + box.h * (inset.y - inset.height / 2)}px`,
      width: `${box.w * inset.width}px`,
      height: `${box.h * inset.height}px`,
    }"
    @pointerdown="grab"
  />
  <PictureHandle
    label="Middle of the inset"
    :at="inset"
    :box="box"
    @input="tryOut(moved($event))"
    @change="say(moved($event))"
  />
  <PictureHandle
    label="Corner of the inset"
    look="corner"
    :at="corner"
    :box="box"
    @input="tryOut(sized($event))"
    @change="say(sized($event))"
  />
</template>
