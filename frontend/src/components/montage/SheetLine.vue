<script setup lang="ts">
/** One line of the sheet: bars and cues, the clips as filmstrips with their speed, ties and cuts, the music. */
import { computed, ref } from 'vue'
import type { DerivedClip } from '@/api/client'
import { useCanvas } from '@/composables/useCanvas'
import { useClipName } from '@/composables/useClipName'
import type { Peaks } from '@/composables/usePeaks'
import { useThumbs } from '@/composables/useThumbs'
import { speedColour, token } from '@/lib/colours'
import { CUE_TOKENS, nearestCue } from '@/lib/cues'
import { drag } from '@/lib/drag'
import { handleKeys } from '@/lib/handleKeys'
import { stable } from '@/lib/stable'
import { drawWave } from '@/lib/wave'
import { useEdit } from '@/stores/edit'
import { useMontage, type Line } from '@/stores/montage'
import { useLayout } from '@/stores/layout'
import { useMusic } from '@/stores/music'
import { useView } from '@/stores/view'
import { BAND, CLIPS, CUES, LINE_HEIGHT, RULER, STRIP, WAVE } from './sheet'

const THUMB = 71
/** Pixels an output frame from which each is shown, and from which each has a mark. */
const SINGLE = 24
const MARKED = 8

const props = defineProps<{
  line: Line
  peaks: Peaks | null
  timeAt: (event: PointerEvent) => number | null
}>()
const edit = useEdit()
const view = useView()
const music = useMusic()
const layout = useLayout()
const montage = useMontage()
const nameOf = useClipName()
/** What a drag leaves as it is lies on a canvas of its own: paper, cues, music. */
const paper = ref<HTMLCanvasElement | null>(null)
const canvas = ref<HTMLCanvasElement | null>(null)
const { width } = useCanvas(paper, drawPaper)
const { redraw } = useCanvas(canvas, draw)
const { thumb } = useThumbs(redraw)

const x = (time: number) => ((time - props.line.from) / (props.line.to - props.line.from)) * width.value
const xOf = (n: number) => x(n / view.outputRate)
const nAt = (px: number) =>
  (props.line.from + (px / width.value) * (props.line.to - props.line.from)) * view.outputRate
/** Pixels an output frame. */
const perFrame = computed(() => width.value / ((props.line.to - props.line.from) * view.outputRate))
/** Whether more than half a frame of it is on the line: a bar ends inside a frame. */
const within = (clip: DerivedClip) =>
  (clip.first + clip.source.length - 0.5) / view.outputRate > props.line.from &&
  (clip.first + 0.5) / view.outputRate < props.line.to
const clips = computed<DerivedClip[]>((old) => stable(old, (edit.derived?.clips ?? []).filter(within)))
/** The clips that are seen where their names would stand. */
const seen = computed<string[]>((old) =>
  stable(
    old,
    clips.value
      .filter((clip) => view.shownOn(Math.max(clip.first, Math.ceil(nAt(0))))?.clip === clip.id)
      .map((clip) => clip.id),
  ),
)
const cuts = computed(() =>
  montage.cuts.filter((cut) => {
    const at = cut.n / view.outputRate
    return at >= props.line.from && at < props.line.to
  }),
)
const troubles = computed(() =>
  montage.troubles.filter((each) => {
    const at = each.n / view.outputRate
    return at >= props.line.from && at < props.line.to
  }),
)
const blacks = computed(() =>
  montage.blacks.filter(({ from, to }) => to > props.line.from && from < props.line.to),
)
const here = computed(() => view.playhead >= props.line.from && view.playhead < props.line.to)

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
    const taken = clips.value.some(
      ({ first, source }) => xOf(first) < right - 1 && xOf(first + source.length) > left + 1,
    )
    if (taken || left < 0 || context.measureText(slot.said).width > right - left - 10) continue
    context.fillStyle = token('brass')
    context.fillText(slot.said, left + 6, CLIPS + STRIP - 4)
  }
}

function draw(context: CanvasRenderingContext2D, w: number): void {
  for (const clip of clips.value) drawClip(context, clip, w)
  for (const black of blacks.value) {
    context.fillStyle = 'black'
    context.fillRect(x(black.from), CLIPS, x(black.to) - x(black.from), STRIP + BAND)
  }
  drawOver(context)
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
    if (at < props.line.from || at > props.line.to) continue
    const edge = x(at) - (way < 0 ? 3 : 0)
    context.fillRect(edge, 0, 3, LINE_HEIGHT)
    context.fillRect(way < 0 ? edge - 7 : edge, 0, 10, 3)
    context.fillRect(way < 0 ? edge - 7 : edge, LINE_HEIGHT - 3, 10, 3)
  }
}

function drawMusic(context: CanvasRenderingContext2D, w: number): void {
  const start = edit.song?.start ?? 0
  const perPixel = (props.line.to - props.line.from) / Math.max(1, w)
  const at = (px: number) => props.line.from + px * perPixel - start
  drawWave(
    context,
    { width: w, top: WAVE, height: LINE_HEIGHT - WAVE, at },
    props.peaks,
    null,
    edit.song?.duration ?? 0,
  )
}

function drawCues(context: CanvasRenderingContext2D): void {
  if (perFrame.value >= MARKED) {
    context.fillStyle = token('paper-line')
    const end = Math.ceil(props.line.to * view.outputRate)
    for (let n = Math.ceil(nAt(0) - 1e-6); n < end; n += 1)
      context.fillRect(Math.round(xOf(n)), RULER, 1, CUES)
  }
  context.font = '600 11px "JetBrains Mono Variable", monospace'
  let bar = Math.max(1, props.line.bar ?? 1)
  for (const cue of edit.cues) {
    if (cue.at < props.line.from - 1e-6 || cue.at >= props.line.to - 1e-6) continue
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
  const left = Math.max(0, xOf(clip.first))
  const right = Math.min(w, xOf(clip.first + clip.source.length))
  const take = edit.takes.find((other) => other.id === edit.clipById.get(clip.id)?.take)
  const sha256 = take?.media.sha256
  context.save()
  context.beginPath()
  context.rect(left, CLIPS, right - left, STRIP + BAND)
  context.clip()
  const frameAt = (px: number) =>
    clip.source[Math.max(0, Math.min(clip.source.length - 1, Math.floor(nAt(px)) - clip.first))]!
  const single = perFrame.value >= SINGLE
  const [begin, wide] = single ? [xOf(Math.floor(nAt(left) + 1e-6)), perFrame.value] : [left, THUMB]
  for (let px = begin; sha256 && px < right; px += wide) {
    const image = thumb(sha256, Math.floor(frameAt(px + 1)))
    if (image) context.drawImage(image, px, CLIPS, single ? wide - 1 : THUMB, STRIP)
  }
  const step = Math.max(1, Math.floor(perFrame.value))
  const per = Math.max(1, Math.round(1 / perFrame.value) * 2)
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
  context.restore()
}

/** Where two clips overlap, a slope that rises as the next one comes; a flash as the light that it gives. */
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
    outline(layer.first, layer.opacity, 0.5)
    context.fillStyle = token('brass')
    context.globalAlpha = 0.55
    context.fill()
  }
  for (const look of edit.derived?.map.looks ?? []) {
    outline(look.first, look.values.light!, 1)
    context.fillStyle = 'white'
    context.globalAlpha = 0.85
    context.fill()
  }
  context.globalAlpha = 1
}

function drawTies(context: CanvasRenderingContext2D): void {
  for (const clip of clips.value)
    for (const landing of clip.landings) {
      const at = xOf(landing.wanted_frame)
      if (at < 0 || at > width.value) continue
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

function seek(event: PointerEvent): void {
  const to = (at: PointerEvent) => {
    const time = props.timeAt(at)
    if (time !== null) view.seek(time)
  }
  montage.cutAt = null
  to(event)
  drag(event, to, () => undefined)
}

const box = (clip: DerivedClip) => {
  const left = Math.max(0, xOf(clip.first))
  const right = Math.min(width.value, xOf(clip.first + clip.source.length))
  return {
    left: `${left}px`,
    width: `${Math.max(4, right - left)}px`,
    top: `${CLIPS}px`,
    height: `${STRIP + BAND}px`,
  }
}

function pick(event: MouseEvent, id: string): void {
  montage.choose(id, event.shiftKey ? 'up to' : event.ctrlKey || event.metaKey ? 'more' : 'alone')
}

/** A clip that is dropped on another one exchanges its pictures with it; until then both say so. */
function carry(event: PointerEvent, id: string): void {
  if (event.shiftKey || event.ctrlKey || event.metaKey) return
  drag(
    event,
    (at) => {
      const under = document.elementsFromPoint(at.clientX, at.clientY)
      const over = under.map((each) => each.getAttribute('data-clip')).find((other) => other && other !== id)
      montage.swapping = over ? { from: id, to: over } : null
    },
    () => {
      const swap = montage.swapping
      montage.swapping = null
      if (swap) void edit.run({ do: 'swap-clips', clip: swap.from, other: swap.to })
    },
  )
}
/** What a clip is called on the sheet; while two are about to be swapped, what comes in its place. */
function title(id: string): string {
  const swap = montage.swapping
  if (swap?.from === id) return `⇄ ${nameOf(swap.to)}`
  return swap?.to === id ? `⇄ ${nameOf(swap.from)}` : nameOf(id)
}

/** Slip: pictures follow the hand under the clip, one source frame a frame of the sheet. Slide: the clip does. */
const GRIPS = [
  { do: 'slip-clip', name: 'Slip', sign: '⇹', what: 'other pictures in the same place' },
  { do: 'slide-clip', name: 'Slide', sign: '⇿', what: 'its neighbours grow and shrink to meet it' },
] as const
const GRIPS_ROOM = 96
const wideEnough = (clip: DerivedClip) =>
  Math.min(width.value, xOf(clip.first + clip.source.length)) - Math.max(0, xOf(clip.first)) >= GRIPS_ROOM

function pull(event: PointerEvent, id: string, what: 'slip-clip' | 'slide-clip'): void {
  event.stopPropagation()
  const start = event.clientX
  let by = 0
  drag(
    event,
    (at) => {
      const next = Math.round((at.clientX - start) / perFrame.value) * (what === 'slip-clip' ? -1 : 1)
      if (next === by) return
      by = next
      pulled.value = by
      void edit.dryRun({ do: what, clip: id, by })
    },
    (moved) => {
      pulled.value = null
      if (moved && by) void edit.run({ do: what, clip: id, by })
      else edit.settle()
    },
  )
}
const pulled = ref<number | null>(null)

function gripKeys(event: KeyboardEvent, id: string, what: 'slip-clip' | 'slide-clip'): void {
  handleKeys(event, { step: (by) => void edit.run({ do: what, clip: id, by }) })
}

const light = (black: string) => void edit.run({ do: 'remove-black', black })

type Cut = (typeof cuts.value)[number]
const move = (cut: Cut, cue: string) => ({ do: 'move-cut', clip: cut.before, other: cut.after, cue }) as const

function grabCut(event: PointerEvent, cut: Cut): void {
  event.stopPropagation()
  montage.seekCut(cut.n)
  let cue: string | null = null
  let before: number | null = null
  drag(
    event,
    (at) => {
      const time = props.timeAt(at)
      const next = time === null ? null : nearestCue(music.shown, time)
      if (time === null || !next) return
      // The cue that the hand seems to be on its way to is asked ahead.
      const far = nearestCue(music.shown, 2 * time - (before ?? time))
      before = time
      if (next.id === cue) return
      cue = next.id
      // The viewer follows the hand, and shows what the clip after the cut would begin with.
      view.seekFrame(next.frame)
      void edit.dryRun(move(cut, cue), move(cut, far?.id ?? cue))
    },
    (moved) => {
      if (!moved || !cue) return edit.settle()
      void edit.run(move(cut, cue))
    },
  )
}

function cutKeys(event: KeyboardEvent, cut: Cut): void {
  handleKeys(event, {
    step: (by) => {
      const frames = edit.cueFrames
      const ordered = by > 0 ? music.shown : [...music.shown].reverse()
      const next = ordered.find((cue) => (frames.get(cue.id)! - cut.n) * by > 0)
      if (next) void edit.run(move(cut, next.id))
    },
  })
}
</script>

<template>
  <div class="relative shrink-0 overflow-hidden rounded-md" :style="{ height: `${LINE_HEIGHT}px` }" data-line>
    <canvas ref="paper" class="absolute inset-0 h-full w-full" />
    <canvas ref="canvas" class="absolute inset-0 h-full w-full cursor-pointer" @pointerdown="seek" />
    <button
      v-for="clip in clips"
      :key="clip.id"
      class="absolute flex items-start overflow-hidden px-1 text-left text-[11px] font-semibold text-white"
      :class="
        montage.swapping?.from === clip.id || montage.swapping?.to === clip.id
          ? 'ring-4 ring-brass ring-inset'
          : montage.mine.includes(clip.id)
            ? 'bg-brass/25 ring-2 ring-brass ring-inset'
            : ''
      "
      :style="box(clip)"
      :data-clip="clip.id"
      :aria-label="`Clip ${nameOf(clip.id)}`"
      :aria-pressed="montage.mine.includes(clip.id)"
      @pointerdown="carry($event, clip.id)"
      @click="pick($event, clip.id)"
      @dblclick="layout.desk = 'clip'"
    >
      <span v-if="seen.includes(clip.id)" class="mt-0.5 truncate rounded bg-black/55 px-1">{{
        title(clip.id)
      }}</span>
    </button>
    <template v-for="clip in clips" :key="`grips ${clip.id}`">
      <div
        v-if="view.clip?.id === clip.id && wideEnough(clip)"
        class="absolute z-10 flex justify-center gap-1"
        :style="{ ...box(clip), top: `${CLIPS + STRIP - 24}px`, height: '24px', pointerEvents: 'none' }"
      >
        <span
          v-for="grip in GRIPS"
          :key="grip.do"
          class="pointer-events-auto cursor-ew-resize rounded bg-black/65 px-1.5 text-[11px] leading-6 font-semibold text-white select-none"
          role="slider"
          tabindex="0"
          :aria-label="`${grip.name} ${nameOf(clip.id)}`"
          :aria-valuenow="pulled ?? 0"
          :title="`${grip.name}: ${grip.what}`"
          @pointerdown="pull($event, clip.id, grip.do)"
          @keydown="gripKeys($event, clip.id, grip.do)"
          @dblclick="layout.desk = 'clip'"
          >{{ grip.sign }} {{ grip.name }}{{ pulled ? ` ${pulled > 0 ? '+' : ''}${pulled}` : '' }}</span
        >
      </div>
    </template>
    <button
      v-for="black in blacks"
      :key="black.id"
      class="absolute truncate px-1 text-[11px] text-white/70 focus-visible:ring-2 focus-visible:ring-brass"
      :style="{
        left: `${Math.max(0, x(black.from))}px`,
        width: `${Math.max(6, Math.min(width, x(black.to)) - Math.max(0, x(black.from)))}px`,
        top: `${CLIPS}px`,
        height: `${STRIP + BAND}px`,
      }"
      :aria-label="`Black, ${black.from.toFixed(2)} to ${black.to.toFixed(2)} s; Delete removes it`"
      title="Black; Delete or a double click removes it"
      @keydown.delete.stop="light(black.id)"
      @dblclick="light(black.id)"
      @click="view.seek(black.from)"
    >
      black
    </button>
    <div
      v-for="cut in cuts"
      :key="cut.n"
      class="absolute w-6 -ml-3 cursor-ew-resize"
      :style="{ left: `${xOf(cut.n)}px`, top: `${CLIPS - 4}px`, height: `${STRIP + BAND + 8}px` }"
      role="slider"
      tabindex="0"
      :aria-label="`Cut to ${nameOf(cut.after)}`"
      :aria-valuenow="cut.n"
      :aria-valuetext="`output frame ${cut.n}, the movement ${cut.way}`"
      @pointerdown="grabCut($event, cut)"
      @keydown="cutKeys($event, cut)"
      @focus="montage.cutAt = cut.n"
    >
      <span
        class="mx-auto block h-full"
        :class="montage.cut?.n === cut.n ? 'w-1 bg-brass' : 'w-0.5 bg-paper'"
      />
    </div>
    <button
      v-for="each in troubles"
      :key="`${each.kind} ${each.n} ${each.clip}`"
      class="absolute size-6 -ml-3 text-[15px] leading-none text-repeat"
      :style="{ left: `${Math.max(12, Math.min(width - 12, xOf(each.n)))}px`, top: '-2px' }"
      :aria-label="`${each.kind}: ${each.what}`"
      :title="each.what"
      @click="view.seekFrame(each.n)"
    >
      ▾
    </button>
    <div
      v-if="here"
      class="pointer-events-none absolute inset-y-0 -ml-px w-0.5 bg-repeat"
      :style="{ left: `${x(view.playhead)}px` }"
    />
  </div>
</template>
