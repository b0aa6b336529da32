<script setup lang="ts">
/** The song in output time: sections, cues by kind, a waveform in three bands, bars and seconds. */
import { computed, inject, ref } from 'vue'
import type { SongFacts } from '@/api/client'
import { useAxes } from '@/composables/useAxis'
import { useCanvas } from '@/composables/useCanvas'
import { useCueMoves } from '@/composables/useCueMoves'
import { PLAYBACK } from '@/composables/keys'
import { usePeaks } from '@/composables/usePeaks'
import { token } from '@/lib/colours'
import { drag } from '@/lib/drag'
import { drawLanes, drawSections, lanesEnd, layLanes } from '@/lib/lanes'
import { drawBars, drawSeconds } from '@/lib/ruler'
import { drawWave } from '@/lib/wave'
import { useEdit, type PlacedCue } from '@/stores/edit'
import { useLibrary } from '@/stores/library'
import { useListening } from '@/stores/listening'
import { useLayout } from '@/stores/layout'
import { useMusic } from '@/stores/music'
import { useView } from '@/stores/view'
import TryAgain from '@/components/TryAgain.vue'
import LaneNames from './LaneNames.vue'
import { kindName } from '@/lib/terms'

const RULERS = 28
const REACH_PX = 8
/** Up to so many cues in view each can be reached with the Tab key. */
const FEW = 60

const edit = useEdit()
const view = useView()
const music = useMusic()
const layout = useLayout()
const listening = useListening()
const library = useLibrary()
const playback = inject(PLAYBACK)!
const canvas = ref<HTMLCanvasElement | null>(null)
const rail = ref<HTMLElement | null>(null)
/** A stretch being marked, in seconds of the edit. */
const marked = ref<{ from: number; to: number } | null>(null)

const song = computed(() => {
  const asset = library.songs.find((other) => other.sha256 === music.sha256)
  return asset?.state === 'ready' ? { sha256: asset.sha256, facts: asset.facts as SongFacts } : null
})
const { peaks, samples, problem, load } = usePeaks(song)
const { width, height, redraw } = useCanvas(canvas, draw)
const { output, gutter } = useAxes(width)
const lanes = computed(() => {
  const kinds = music.lanes.filter((kind) => !music.hidden.has(kind))
  return layLanes(layout.desk === 'music' ? 'music' : 'clip', kinds, height.value)
})
const head = computed(() => lanesEnd(lanes.value))
const laneOf = computed(
  () => new Map(lanes.value.flatMap((lane) => lane.kinds.map((kind) => [kind, lane] as const))),
)
const seen = computed(() => {
  const { from, to } = view
  const margin = (to - from) * 0.02
  return music.shown.filter((cue) => cue.at >= from - margin && cue.at <= to + margin)
})
const reachable = computed(() => {
  const { from, to } = view
  return seen.value.length <= FEW ? seen.value.filter((cue) => cue.at >= from && cue.at <= to) : []
})
const beats = computed(() => edit.cues.filter((cue) => cue.kind === 'beat' || cue.kind === 'downbeat'))
const tied = computed(() => new Set(edit.clips.flatMap((clip) => clip.pins.map((pin) => pin.cue))))
const selected = computed(() => new Set(view.selectedCues))
const start = computed(() => edit.song?.start ?? 0)

/** The instant under a pointer; over the names of lanes, that at which the rail begins. */
const timeAt = (event: { clientX: number }) =>
  output.value.at(Math.max(gutter.value, event.clientX - (canvas.value?.getBoundingClientRect().left ?? 0)))
const moves = useCueMoves(timeAt)
moves.shift.show = redraw

function draw(context: CanvasRenderingContext2D, w: number, tall: number): void {
  const bottom = tall - RULERS
  const { x } = output.value
  context.fillStyle = token('paper')
  context.fillRect(0, 0, w, tall)
  drawRange(context, tall)
  if (!edit.song) return
  const [axis, begin] = [output.value, start.value]
  const at = (px: number) => axis.at(px) - begin
  const box = { width: w, top: head.value, height: bottom - head.value, at }
  drawWave(context, box, peaks.value, samples.value, edit.song.duration)
  drawSilence(context, bottom)
  drawSections(context, edit.song.sections ?? [], (time) => x(time + begin), layout.desk === 'music')
  // Read once: asking reactive values anew for thousands of cues costs more than drawing them.
  const [held, ties, taken, by] = [selected.value, tied.value, music.chosen, moves.shift.by]
  const look = (cue: PlacedCue) => {
    const mine = held.has(cue.id)
    return {
      x: x(cue.at + (mine ? by : 0)),
      selected: mine,
      chosen: taken === null || taken.has(cue.id),
      tied: ties.has(cue.id),
    }
  }
  drawLanes(context, lanes.value, seen.value, look, bottom)
  drawBars(context, x, beats.value, w, bottom + 1)
  drawSeconds(context, x, { from: view.from, to: view.to, width: w - gutter.value }, tall)
  if (!gutter.value) return
  context.fillStyle = token('paper')
  context.fillRect(0, 0, gutter.value - 1, tall)
  context.fillStyle = token('paper-line')
  context.fillRect(gutter.value - 1, 0, 1, tall)
}

/** What is not heard of the song lies in shade. */
function drawSilence(context: CanvasRenderingContext2D, bottom: number): void {
  const { x } = output.value
  context.fillStyle = token('ink')
  context.globalAlpha = 0.25
  const first = x(start.value)
  const from = x(edit.music?.heard_from ?? 0)
  const to = x(edit.music?.heard_to ?? 0)
  const last = x(edit.end)
  if (from > first) context.fillRect(first, head.value, from - first, bottom - head.value)
  if (last > to) context.fillRect(to, head.value, last - to, bottom - head.value)
  context.globalAlpha = 1
}

function drawRange(context: CanvasRenderingContext2D, tall: number): void {
  const range = marked.value ?? listening.loop
  if (!range) return
  const { x } = output.value
  context.fillStyle = token('brass')
  context.globalAlpha = 0.25
  context.fillRect(x(range.from), 0, x(range.to) - x(range.from), tall)
  context.globalAlpha = 1
  if (!marked.value) context.fillRect(x(range.from), tall - RULERS, x(range.to) - x(range.from), 3)
}

/** Press: in a lane on cues, on the wave to seek, on the rulers to mark a stretch that repeats. */
function press(event: PointerEvent): void {
  rail.value?.focus({ preventScroll: true })
  const y = event.clientY - canvas.value!.getBoundingClientRect().top
  if (y >= height.value - RULERS || (event.shiftKey && y >= head.value)) return mark(event, setLoop)
  if (y >= head.value || !edit.song) return scrub(event)
  const cue = cueAt(timeAt(event), y)
  if (cue) moves.grab(event, cue, () => !playback.stats.playing && view.seek(cue.at))
  else mark(event, selectBetween, () => add(event, y))
}

function cueAt(time: number, y: number): PlacedCue | undefined {
  const reach = REACH_PX * (output.value.at(1) - output.value.at(0))
  let best: PlacedCue | undefined
  for (const cue of seen.value) {
    const lane = laneOf.value.get(cue.kind)
    if (!lane || y < lane.top || y > lane.top + lane.height) continue
    const away = Math.abs(cue.at - time)
    if (away <= reach && (!best || away < Math.abs(best.at - time))) best = cue
  }
  return best
}

function scrub(event: PointerEvent): void {
  const seek = (at: PointerEvent) => view.seek(Math.max(0, timeAt(at)))
  seek(event)
  drag(event, seek, () => undefined)
}

function mark(event: PointerEvent, done: (from: number, to: number) => void, click?: () => void): void {
  const origin = timeAt(event)
  drag(
    event,
    (at) => {
      const [from, to] = [origin, timeAt(at)].sort((a, b) => a - b) as [number, number]
      marked.value = { from: Math.max(0, from), to }
    },
    (moved) => {
      const range = marked.value
      marked.value = null
      if (moved && range) done(range.from, range.to)
      else if (click) click()
      else {
        listening.loop = null
        view.seek(Math.max(0, origin))
      }
    },
  )
}

const setLoop = (from: number, to: number) => void (listening.loop = { from, to })

function selectBetween(from: number, to: number): void {
  const cues = seen.value.filter((cue) => cue.at >= from && cue.at <= to).map((cue) => cue.id)
  view.select(cues.length ? { kind: 'cues', cues } : { kind: 'none' })
}

function add(event: PointerEvent, y: number): void {
  const lane = lanes.value.find((other) => y >= other.top && y <= other.top + other.height)
  const kind = layout.desk === 'music' ? (lane?.kinds[0] ?? 'hand') : listening.tap.kind
  const time = Math.max(0, Math.min(edit.song?.duration ?? 0, timeAt(event) - start.value))
  void edit.run({ do: 'add-cue', time, kind, strength: 1 })
}

function wheel(event: WheelEvent): void {
  event.preventDefault()
  const perPixel = (view.to - view.from) / (width.value - gutter.value)
  if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY)) {
    view.pan((event.deltaX || event.deltaY) * perPixel)
  } else view.zoom(Math.exp(event.deltaY * 0.0016), timeAt(event))
}

function laneTop(cue: PlacedCue): number {
  const lane = laneOf.value.get(cue.kind)
  return lane ? lane.top + lane.height / 2 - 9 : 0
}
</script>

<template>
  <div
    ref="rail"
    class="relative h-full min-h-0 overflow-hidden rounded-md"
    role="group"
    tabindex="0"
    aria-label="Music rail"
    @wheel="wheel"
    @keydown="moves.keys"
  >
    <canvas ref="canvas" class="absolute inset-0 h-full w-full" @pointerdown="press" />
    <LaneNames v-if="layout.desk === 'music' && edit.song" :lanes="lanes" />
    <button
      v-for="cue in reachable"
      :key="cue.id"
      class="absolute top-0 left-0 -ml-2 h-[18px] w-4 rounded-sm"
      :style="{ transform: `translate(${output.x(cue.at)}px, ${laneTop(cue)}px)` }"
      :aria-label="`Cue ${kindName(cue.kind)} at ${cue.at.toFixed(3)} s`"
      :aria-pressed="selected.has(cue.id)"
      :title="`${kindName(cue.kind)}, ${cue.at.toFixed(3)} s`"
      @pointerdown="moves.grab($event, cue, () => playback.stats.playing || view.seek(cue.at))"
      @focus="selected.has(cue.id) || view.select({ kind: 'cues', cues: [cue.id] })"
    />
    <TryAgain
      v-if="problem"
      class="absolute right-1 bottom-8"
      :problem="problem"
      what="The waveform could not be loaded."
      @again="load"
    />
    <p v-if="!edit.song" class="pointer-events-none absolute inset-0 grid place-items-center text-ink-muted">
      Pick the music first: drop a song on the shelf.
    </p>
  </div>
</template>
