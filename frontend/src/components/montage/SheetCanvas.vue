<script setup lang="ts">
/** One line of the sheet as it is drawn: bars and cues, filmstrips with their speed, ties, overlaps, the music. */
import { ref } from 'vue'
import type { Derived, DerivedClip } from '@/api/client'
import { useCanvas } from '@/composables/useCanvas'
import type { Peaks } from '@/composables/usePeaks'
import type { SheetPlace } from '@/composables/useSheetLine'
import { useThumbs } from '@/composables/useThumbs'
import { speedColour, token } from '@/lib/colours'
import { CUE_TOKENS } from '@/lib/cues'
import { inksOf } from '@/lib/accents'
import { inkOf, markOf } from '@/lib/pulses'
import { ROUNDING } from '@/lib/rounding'
import { titleName } from '@/lib/titles'
import { drawWave } from '@/lib/wave'
import { useEdit } from '@/stores/edit'
import { useMontage } from '@/stores/montage'
import { useMusic } from '@/stores/music'
import { BAND, CLIPS, CUES, LINE_HEIGHT, RULER, STRIP, WAVE } from './sheet'

const THUMB = 71
/** Pixels an output frame from which each is shown, and from which each has a mark. */
const SINGLE = 24
const MARKED = 8
/** How high accents stand on the clips, in pixels. */
const ACCENT = 20
/** Titles lie under the clips' names. */
const TITLE = { top: 19, height: 13 }

const props = defineProps<{ place: SheetPlace; peaks: Peaks | null }>()
const edit = useEdit()
const music = useMusic()
const montage = useMontage()
/** What a drag leaves as it is lies on a canvas of its own: paper, cues, music. */
const paper = ref<HTMLCanvasElement | null>(null)
const canvas = ref<HTMLCanvasElement | null>(null)
useCanvas(paper, drawPaper)
const { redraw } = useCanvas(canvas, draw)
const { thumb } = useThumbs(redraw)

const x = (time: number) => props.place.times.x(time)
const xOf = (n: number) => props.place.frames.x(n)
const nAt = (px: number) => props.place.frames.at(px)

function drawPaper(context: CanvasRenderingContext2D, w: number): void {
  context.fillStyle = token('paper')
  context.fillRect(0, 0, w, LINE_HEIGHT)
  context.fillStyle = token('panel')
  context.fillRect(0, CLIPS, w, STRIP + BAND)
  drawMusic(context, w)
  drawCues(context)
}

/** Stretches that are about to be filled: where they lie and how long they are, before anything is in them. */
function drawSlots(context: CanvasRenderingContext2D, w: number): void {
  context.font = '600 10px "JetBrains Mono Variable", monospace'
  context.lineWidth = 1
  for (const slot of montage.slots) {
    const [left, right] = [x(slot.from), x(slot.to)]
    if (right < 0 || left > w) continue
    context.setLineDash([4, 3])
    context.strokeStyle = token('brass')
    context.strokeRect(left + 1.5, CLIPS + 1.5, right - left - 3, STRIP + BAND - 3)
    context.setLineDash([])
    const taken = props.place.clips.some(
      ({ first, source }) => xOf(first) < right - 1 && xOf(first + source.length) > left + 1,
    )
    if (taken || left < 0 || context.measureText(slot.said).width > right - left - 10) continue
    context.fillStyle = token('brass')
    context.fillText(slot.said, left + 6, CLIPS + STRIP - 4)
  }
}

function draw(context: CanvasRenderingContext2D, w: number): void {
  for (const clip of props.place.clips) drawClip(context, clip, w)
  for (const black of props.place.blacks) {
    context.fillStyle = 'black'
    context.fillRect(x(black.from), CLIPS, x(black.to) - x(black.from), STRIP + BAND)
  }
  drawOver(context)
  drawAccents(context, w)
  drawTitles(context, w)
  drawSlots(context, w)
  drawTies(context)
  drawOutside(context, w)
}

/** What lies outside the range steps back. */
function drawOutside(context: CanvasRenderingContext2D, w: number): void {
  const range = montage.range
  if (!range) return
  const [left, right] = [Math.max(0, Math.min(w, x(range.from))), Math.max(0, Math.min(w, x(range.to)))]
  context.fillStyle = token('ground')
  context.globalAlpha = 0.62
  context.fillRect(0, 0, left, LINE_HEIGHT)
  context.fillRect(right, 0, w - right, LINE_HEIGHT)
  context.globalAlpha = 1
  context.fillStyle = token('brass')
  for (const [at, way] of [
    [range.from, 1],
    [range.to, -1],
  ] as const) {
    if (at < props.place.line.from || at > props.place.line.to) continue
    const edge = x(at) - (way < 0 ? 3 : 0)
    context.fillRect(edge, 0, 3, LINE_HEIGHT)
    context.fillRect(way < 0 ? edge - 7 : edge, 0, 10, 3)
    context.fillRect(way < 0 ? edge - 7 : edge, LINE_HEIGHT - 3, 10, 3)
  }
}

function drawMusic(context: CanvasRenderingContext2D, w: number): void {
  const start = edit.song?.start ?? 0
  const at = (px: number) => props.place.times.at(px) - start
  drawWave(
    context,
    { width: w, top: WAVE, height: LINE_HEIGHT - WAVE, at },
    props.peaks,
    null,
    edit.song?.duration ?? 0,
  )
}

function drawCues(context: CanvasRenderingContext2D): void {
  if (props.place.frames.scale >= MARKED) {
    context.fillStyle = token('paper-line')
    const end = edit.clock.next(props.place.line.to)
    for (let n = edit.clock.next(props.place.line.from); n < end; n += 1)
      context.fillRect(Math.round(xOf(n)), RULER, 1, CUES)
  }
  context.font = '600 11px "JetBrains Mono Variable", monospace'
  let bar = Math.max(1, props.place.line.bar ?? 1)
  for (const cue of props.place.cues) {
    const at = Math.round(x(cue.at))
    if (cue.kind === 'downbeat') {
      context.fillStyle = token('ink')
      context.fillRect(at, 2, 1.5, RULER - 2)
      context.fillText(String(bar), at + 4, 11)
      bar += 1
    } else if (cue.kind === 'beat') {
      context.fillStyle = token('ink-muted')
      context.fillRect(at, RULER - 5, 1, 5)
    } else if (!music.hidden.has(cue.kind)) {
      context.fillStyle = token(CUE_TOKENS[cue.kind])
      context.globalAlpha = music.isChosen(cue.id) ? 0.3 + 0.7 * (cue.strength ?? 1) : 0.12
      const tall = cue.kind === 'drop' ? CUES : 3 + 4 * (cue.strength ?? 1)
      context.fillRect(at - (cue.kind === 'drop' ? 1 : 0), CLIPS - tall, cue.kind === 'drop' ? 3 : 1.5, tall)
      context.globalAlpha = 1
    }
  }
}

function drawClip(context: CanvasRenderingContext2D, clip: DerivedClip, w: number): void {
  const [left, right] = props.place.edges(clip)
  const perFrame = props.place.frames.scale
  const sha256 = edit.takeOf(clip.id)?.media.sha256
  context.save()
  context.beginPath()
  context.rect(left, CLIPS, right - left, STRIP + BAND)
  context.clip()
  const frameAt = (px: number) =>
    clip.source[Math.max(0, Math.min(clip.source.length - 1, Math.floor(nAt(px)) - clip.first))]!
  const single = perFrame >= SINGLE
  const [begin, wide] = single ? [xOf(Math.floor(nAt(left) + ROUNDING)), perFrame] : [left, THUMB]
  for (let px = begin; sha256 && px < right; px += wide) {
    const image = thumb(sha256, Math.floor(frameAt(px + 1)))
    if (image) context.drawImage(image, px, CLIPS, single ? wide - 1 : THUMB, STRIP)
  }
  const step = Math.max(1, Math.floor(perFrame))
  const per = Math.max(1, Math.round(1 / perFrame) * 2)
  for (let i = 0; i < clip.speed.length; i += per) {
    const at = xOf(clip.first + i)
    if (at > w || at < -step * per) continue
    context.fillStyle = speedColour(clip.speed[i]!)
    context.fillRect(at, CLIPS + STRIP, Math.max(2, step * per) + 1, BAND)
    if (clip.steps[i] === 0) {
      context.fillStyle = token('repeat')
      context.fillRect(at, CLIPS + STRIP + BAND - 2, 2, 2)
    }
  }
  drawTeeth(context, clip)
  context.restore()
}

/** The teeth of a clip's pulses on its band of speed, as on the lane. */
function drawTeeth(context: CanvasRenderingContext2D, clip: DerivedClip): void {
  clip.pulses?.pulses.forEach((pulse, place) => {
    const mark = new Path2D(markOf(place))
    context.fillStyle = token(inkOf(place))
    context.strokeStyle = token('paper')
    for (const tooth of pulse.teeth.filter(({ silent }) => !silent)) {
      context.save()
      context.translate(xOf(tooth.n), CLIPS + STRIP + BAND - 8 * (place + 1))
      context.stroke(mark)
      context.fill(mark)
      context.restore()
    }
  })
}

/** Which part of what is seen a layer has on each of its frames. */
function partsSeen({ opacity, placing }: Derived['map']['layers'][number]): number[] {
  return Array.from(opacity, (value, at) => {
    if (!placing) return value
    const side = (by: number, from: number, to: number) => Math.min(1 + by, to) - Math.max(by, from)
    const across = side(placing.x[at]!, placing.left[at]!, placing.right[at]!)
    return value * across * side(placing.y[at]!, placing.top[at]!, placing.bottom[at]!)
  })
}

/** Where two clips overlap, a slope that rises as the next one comes; black as it comes and goes. */
function drawOver(context: CanvasRenderingContext2D): void {
  const [foot, height] = [CLIPS + STRIP, STRIP - 4]
  const outline = (first: number, column: ArrayLike<number>, full: number) => {
    context.beginPath()
    context.moveTo(xOf(first), foot)
    Array.from(column).forEach((value, i) =>
      context.lineTo(xOf(first + i + 0.5), foot - height * (value / full)),
    )
    context.lineTo(xOf(first + column.length), foot)
    context.closePath()
  }
  for (const layer of edit.derived?.map.layers ?? []) {
    if (layer.accent) continue
    outline(layer.first, partsSeen(layer), layer.clip ? 0.5 : 1)
    context.fillStyle = layer.clip ? token('brass') : layer.colour
    context.globalAlpha = 0.55
    context.fill()
  }
  context.globalAlpha = 1
}

/** Accents over the clips, as on their rail: up over the lead, full, down over the tail. */
function drawAccents(context: CanvasRenderingContext2D, w: number): void {
  const [foot, top] = [CLIPS + STRIP, CLIPS + STRIP - ACCENT]
  const kinds = new Map(edit.accents.map(({ id, what, on }) => [id, on ? what.kind : null]))
  for (const { id, first, count, since, until } of edit.derived?.accents ?? []) {
    const kind = kinds.get(id)
    if (!kind) continue
    const [fill, line] = inksOf(kind)
    Array.from(first).forEach((begin, i) => {
      if (xOf(begin) > w || xOf(begin + count[i]!) < 0) return
      context.beginPath()
      context.moveTo(xOf(begin), foot)
      context.lineTo(xOf(since[i]!), top)
      context.lineTo(xOf(until[i]! + 1), top)
      context.lineTo(xOf(begin + count[i]!), foot)
      context.globalAlpha = 0.75
      context.fillStyle = fill
      context.fill()
      context.strokeStyle = line
      context.stroke()
    })
  }
  context.globalAlpha = 1
}

/** Titles over the clips, each as long as it is seen, with as much of its words as there is room for. */
function drawTitles(context: CanvasRenderingContext2D, w: number): void {
  const names = new Map(edit.titles.map((each) => [each.id, titleName(each)]))
  context.font = '600 10px "Inter Variable", sans-serif'
  for (const { id, first, opacity } of edit.derived?.map.titles ?? []) {
    const [left, right] = [xOf(first), xOf(first + opacity.length)]
    if (right < 0 || left > w) continue
    context.save()
    context.beginPath()
    context.roundRect(left + 1, CLIPS + TITLE.top, Math.max(2, right - left - 2), TITLE.height, 3)
    context.clip()
    context.fillStyle = token('text')
    context.globalAlpha = 0.88
    context.fillRect(left, CLIPS + TITLE.top, right - left, TITLE.height)
    context.globalAlpha = 1
    context.fillStyle = token('ground')
    context.fillText(names.get(id) ?? '', Math.max(left, 0) + 5, CLIPS + TITLE.top + TITLE.height - 3)
    context.restore()
  }
}

function drawTies(context: CanvasRenderingContext2D): void {
  for (const clip of props.place.clips)
    for (const landing of clip.landings) {
      const at = xOf(landing.wanted_frame)
      if (at < 0 || at > props.place.width) continue
      context.strokeStyle = context.fillStyle = token(landing.exact ? 'brass' : 'repeat')
      context.lineWidth = 2
      context.beginPath()
      context.moveTo(at, CLIPS - CUES)
      context.lineTo(at, WAVE)
      context.stroke()
      context.beginPath()
      context.arc(at, WAVE - 2, 4, 0, 7)
      context.fill()
    }
}
</script>

<template>
  <div class="absolute inset-0 cursor-pointer">
    <canvas ref="paper" class="absolute inset-0 h-full w-full" />
    <canvas ref="canvas" class="absolute inset-0 h-full w-full" />
  </div>
</template>
