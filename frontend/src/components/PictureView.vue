<script setup lang="ts">
/** The picture: what the edit plays, or the frame of a take that is looked at. */
import { computed, inject, ref, shallowRef, watch } from 'vue'
import AssetStatus from '@/components/AssetStatus.vue'
import PictureTools from '@/components/onpicture/PictureTools.vue'
import { useCanvas } from '@/composables/useCanvas'
import { pictures } from '@/composables/usePack'
import { flowBetween, useSeen, type Seen } from '@/composables/useSeen'
import { PLAYBACK, SCREEN } from '@/composables/keys'
import { token } from '@/lib/colours'
import { drag } from '@/lib/drag'
import { Composer, type Box, type Letters, type Placed } from '@/lib/composer'
import { liesIn } from '@/lib/lying'
import { TWO_SCENES } from '@/lib/pairFlow'
import type { Framed, Layered, Place, Stack } from '@/lib/stack'
import { lyingIn } from '@/lib/titles'
import { useEdit } from '@/stores/edit'
import { useLibrary } from '@/stores/library'
import { useView } from '@/stores/view'

const edit = useEdit()
const view = useView()
const library = useLibrary()
const screen = inject(SCREEN)!
const playback = inject(PLAYBACK)!
const seen = useSeen()
const canvas = ref<HTMLCanvasElement | null>(null)
let stack: Stack<Seen> | null = null
/** Made when the first frame comes that is more than one picture. */
let composer: Composer | null | undefined

/** Where the frame lies in the view, in its pixels. */
const framed = shallowRef<Box | null>(null)
const sameBox = (one: Box | null, other: Box) =>
  !!one && one.x === other.x && one.y === other.y && one.w === other.w && one.h === other.h

const { paint } = useCanvas(canvas, (context, width, height) => {
  context.fillStyle = token('ground')
  context.fillRect(0, 0, width, height)
  const whole = stack && frameOf(stack)
  if (!stack || !whole) return void (framed.value = null)
  const wide = Math.min(width, height * whole)
  const box = { x: (width - wide) / 2, y: (height - wide / whole) / 2, w: wide, h: wide / whole }
  drawStack(context, box, stack)
  if (!sameBox(framed.value, box)) framed.value = box
  const plain = view.split !== null && isOfEdit(stack) && seen.ready(view.frame, view.beside)
  if (!plain) return
  context.save()
  context.beginPath()
  context.rect(box.x, box.y, box.w * view.split!, box.h)
  context.clip()
  drawStack(context, box, plain)
  context.restore()
})

function drawStack(context: CanvasRenderingContext2D, box: Box, of: Stack<Seen>): void {
  const [first, ...over] = of.layers
  const lies = first?.toward ?? first?.place ?? first?.framed ?? first?.keying
  const plain = !over.length && !lies && !of.looks.length && !of.titles.length
  if (!plain && composer === undefined) composer = Composer.make()
  if (!plain && composer) return drawComposed(context, box, of, composer)
  context.save()
  context.beginPath()
  context.rect(box.x, box.y, box.w, box.h)
  context.clip()
  context.fillStyle = 'black'
  if (isOfEdit(of)) context.fillRect(box.x, box.y, box.w, box.h)
  context.translate(box.x, box.y)
  for (const placed of placedIn(of, box.w, box.h, false)) drawPlaced(context, placed, box.w, box.h)
  for (const title of lettersIn(of, box.w, box.h)) drawLetters(context, title, box.w, box.h)
  context.restore()
}

/** Draw one of the pictures in a frame of this size; how that is done is told by the composer. */
function drawPlaced(context: CanvasRenderingContext2D, placed: Placed, w: number, h: number): void {
  const { bitmap, colour, box, opacity, blend, place } = placed
  const { left, top, right, bottom, mask, corners } = place
  const reach = [((right - left) * w) / 2, ((bottom - top) * h) / 2] as const
  const middle = [left * w + reach[0], top * h + reach[1]] as const
  context.save()
  context.beginPath()
  if (mask === 'box') context.rect(left * w, top * h, 2 * reach[0], 2 * reach[1])
  else if (mask === 'polygon')
    for (const { x, y } of corners) context.lineTo(middle[0] + x * reach[0], middle[1] + y * reach[1])
  else context.ellipse(...middle, ...reach, 0, 0, 2 * Math.PI)
  if (mask === 'outside') context.rect(0, 0, w, h)
  context.clip('evenodd')
  bring(context, place, w, h)
  if (placed.framed) {
    context.beginPath()
    context.rect(0, 0, w, h)
    context.clip()
    bring(context, placed.framed, w, h)
  }
  context.globalAlpha = opacity
  // The canvas has the same modes by the same names, but for the plain one.
  if (blend !== 'normal') context.globalCompositeOperation = blend
  context.fillStyle = colour
  if (bitmap) context.drawImage(bitmap, box.x, box.y, box.w, box.h)
  else context.fillRect(box.x, box.y, box.w, box.h)
  context.restore()
}

/** Write a title over what is there; it moves about the middle of its own picture. */
function drawLetters(context: CanvasRenderingContext2D, title: Letters, w: number, h: number): void {
  const { bitmap, box, opacity } = title
  context.save()
  context.globalAlpha = opacity
  context.translate(box.x + box.w / 2 + title.x * w, box.y + box.h / 2 + title.y * h)
  context.rotate((title.turn * Math.PI) / 180)
  context.scale(title.scale, title.scale)
  context.drawImage(bitmap, -box.w / 2, -box.h / 2, box.w, box.h)
  context.restore()
}

/** Have what is drawn next moved, grown and turned about the middle of a frame of this size. */
function bring(context: CanvasRenderingContext2D, to: Framed, w: number, h: number): void {
  context.translate((0.5 + to.x) * w, (0.5 + to.y) * h)
  context.rotate((to.turn * Math.PI) / 180)
  context.scale(to.scale, to.scale)
  context.translate(-w / 2, -h / 2)
}

/** Whether it is a frame of the edit, not a picture of a take that is looked at by itself. */
const isOfEdit = ({ layers }: Stack<Seen>) => !layers[0]?.shown || !!layers[0].shown.clip

/** Width over height of the frame: what is looked at by itself is seen whole, else it is the edit's. */
function frameOf(of: Stack<Seen>): number | null {
  if (isOfEdit(of)) return edit.edit ? edit.edit.width! / edit.edit.height! : null
  const { bitmap } = of.layers[0]!.shown!
  return bitmap.width ? bitmap.width / bitmap.height : null
}

type Drawn = Omit<Layered<Seen>, 'toward'> & Pick<Placed, 'toward'>
/** What is seen of two pictures that are moved to one another, as far as that can be drawn: else a blend. */
function moved(layer: Layered<Seen>, flows: boolean): Drawn[] {
  const { toward, ...first } = layer
  if (!first.shown || !toward) return [first]
  const { shown, part } = toward
  const flow = flowBetween(first.shown, shown)
  if (flow === TWO_SCENES) return [part < 0.5 ? first : { ...first, shown }]
  if (flow && flows && shown.bitmap.width) return [{ ...first, toward: { bitmap: shown.bitmap, part, flow } }]
  const seen = first.opacity * part
  const under = (first.opacity - seen) / (1 - seen)
  return [
    { ...first, opacity: under },
    { ...first, shown, opacity: seen },
  ]
}

/** Where each picture lies in a frame of this size, the lowest first. A closed one is left out. */
function placedIn({ layers }: Stack<Seen>, width: number, height: number, flows: boolean): Placed[] {
  return layers
    .flatMap((layer) => moved(layer, flows))
    .filter(({ shown }) => shown?.bitmap.width !== 0)
    .map(({ shown, toward, opacity, place = IN_PLACE, colour = '#000000', blend = 'normal', ...how }) => ({
      ...how,
      bitmap: shown?.bitmap ?? null,
      toward,
      colour,
      blend,
      opacity,
      place,
      box: shown ? fitted(shown, width, height) : { x: 0, y: 0, w: width, h: height },
    }))
}
/** The titles of a frame of this size, as far as their pictures are there, and where they lie in it. */
function lettersIn({ titles }: Stack<Seen>, width: number, height: number): Letters[] {
  const frame = { x: 0, y: 0, w: width, h: height }
  return titles.flatMap((each) => {
    const { title, bitmap } = seen.letteringOf(each.id) ?? {}
    if (!title || !bitmap?.width) return []
    return { ...each, bitmap, box: lyingIn(title, bitmap, frame, width / (edit.edit?.width ?? width)) }
  })
}
const IN_PLACE: Place = {
  ...{ x: 0, y: 0, scale: 1, turn: 0 },
  ...{ left: 0, top: 0, right: 1, bottom: 1, mask: 'box', corners: [] },
}

/** A clip's picture as it lies in a frame of this size: filling it, or fitted in. */
function fitted({ bitmap, clip: id }: Seen, width: number, height: number): Box {
  const { left, top, wide, high } = liesIn({ width, height }, bitmap, edit.clipById.get(id ?? ''))
  return { x: left * width, y: top * height, w: wide * width, h: high * height }
}

function drawComposed(context: CanvasRenderingContext2D, box: Box, of: Stack<Seen>, by: Composer): void {
  const [w, h] = [box.w, box.h].map((side) => Math.max(1, Math.round(side * devicePixelRatio)))
  context.drawImage(
    by.draw(w!, h!, placedIn(of, w!, h!, true), of.looks, lettersIn(of, w!, h!)),
    box.x,
    box.y,
    box.w,
    box.h,
  )
}

screen.show = (next) => {
  stack = next
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

/** What should be seen while nothing plays, with its pictures. */
async function fetched(): Promise<Stack<Seen> | null> {
  if (view.looking === 'edit') return seen.get(view.frame)
  const now = wanted.value
  const bitmap = now?.media.sha256 ? await pictures.get(now.media.sha256, now.frame) : null
  return bitmap && { layers: [{ shown: { bitmap }, opacity: 1 }], looks: [], titles: [] }
}

let asked = 0
watch(
  [
    wanted,
    () =>
      view.looking === 'edit' && [
        view.frame,
        edit.derived?.map,
        view.seenAs,
        view.split === null,
        view.beside,
      ],
    () => making.value === undefined,
  ],
  async () => {
    if (playback.stats.playing) return
    const mine = (asked += 1)
    const rests = () => mine === asked && !playback.stats.playing
    const found = await fetched()
    if (rests()) screen.show(found)
    if (!found?.layers.some(({ toward }) => toward)) return
    await seen.flowing(view.frame)
    if (rests()) paint()
  },
  { immediate: true },
)

/** Move the edge of the split picture: by hand, or by its keys. */
function splitAt(part: number): void {
  view.split = Math.min(1, Math.max(0, part))
  paint()
}
function grabSplit(event: PointerEvent): void {
  const area = canvas.value!.getBoundingClientRect()
  const move = ({ clientX }: PointerEvent) => {
    if (framed.value) splitAt((clientX - area.left - framed.value.x) / framed.value.w)
  }
  drag(event, move, () => undefined)
}
const SPLIT_STEP = 0.05
const SPLIT_KEYS: Record<string, number> = {
  ArrowLeft: -SPLIT_STEP,
  ArrowRight: SPLIT_STEP,
  Home: -1,
  End: 1,
}
function moveSplit(event: KeyboardEvent): void {
  const by = SPLIT_KEYS[event.key]
  if (by === undefined || view.split === null) return
  event.preventDefault()
  splitAt(view.split + by)
}

const caption = computed(() => {
  if (!wanted.value && !edit.clips.length) return ''
  if (!wanted.value)
    return seen.on(view.frame)?.layers.some(({ shown }) => shown) ? 'inset over black' : 'no clip here: black'
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
    <div
      v-if="framed && view.split !== null"
      class="absolute w-3 -translate-x-1/2 cursor-ew-resize before:absolute before:inset-y-0 before:left-1/2 before:w-0.5 before:-translate-x-1/2 before:bg-brass"
      :style="{
        left: `${framed.x + framed.w * view.split}px`,
        top: `${framed.y}px`,
        height: `${framed.h}px`,
      }"
      role="slider"
      tabindex="0"
      aria-label="Edge of the split picture"
      aria-valuemin="0"
      aria-valuemax="100"
      :aria-valuenow="Math.round(view.split * 100)"
      @pointerdown="grabSplit"
      @keydown="moveSplit"
    >
      <span class="absolute top-1 right-full mr-1 rounded bg-black/60 px-1.5 whitespace-nowrap text-white">{{
        view.beside === 'take' ? 'take' : 'without accents'
      }}</span>
      <span class="absolute top-1 left-full ml-1 rounded bg-black/60 px-1.5 whitespace-nowrap text-white"
        >edit</span
      >
    </div>
    <PictureTools v-if="framed && !playback.stats.playing" :box="framed" />
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
