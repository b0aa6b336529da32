<script setup lang="ts">
/** The song in output time: a waveform in three bands, the cues by kind, a ruler of seconds. */
import { computed, inject, ref } from 'vue'
import type { Cue, SongFacts } from '@/api/client'
import { useAxes } from '@/composables/useAxis'
import { useCanvas } from '@/composables/useCanvas'
import { PLAYBACK } from '@/composables/keys'
import { usePeaks } from '@/composables/usePeaks'
import { token } from '@/lib/colours'
import { CUE_SHAPES, CUE_TOKENS } from '@/lib/cues'
import { drag } from '@/lib/drag'
import { useEdit } from '@/stores/edit'
import { useLibrary } from '@/stores/library'
import { useView } from '@/stores/view'

/** Two rows of cue marks: hits and marks by hand above, the beat below. */
const ROWS = { upper: 2, lower: 20 }
const HEAD = 40
const RULER = 16
const BANDS = [
  { token: 'high', share: 0.22, name: 'high' },
  { token: 'mid', share: 0.28, name: 'mid' },
  { token: 'low', share: 0.5, name: 'low' },
]
const edit = useEdit()
const view = useView()
const library = useLibrary()
const playback = inject(PLAYBACK)!
const canvas = ref<HTMLCanvasElement | null>(null)
const dragged = ref<{ id: string; time: number } | null>(null)

const song = computed(() => {
  const sha256 = edit.song?.media.sha256
  const asset = library.songs.find((other) => other.sha256 === sha256)
  return asset?.state === 'ready' ? { sha256: asset.sha256, facts: asset.facts as SongFacts } : null
})
const peaks = usePeaks(song)
const { width } = useCanvas(canvas, draw)
const { output } = useAxes(width)
const seen = computed(() => {
  const margin = (view.to - view.from) * 0.02
  return edit.cues.filter((cue) => cue.time >= view.from - margin && cue.time <= view.to + margin)
})
const isBeat = (cue: Cue) => cue.kind === 'beat' || cue.kind === 'downbeat'
const timeOf = (cue: Cue) => (dragged.value?.id === cue.id ? dragged.value.time : cue.time)
const tied = computed(() => new Set(edit.clips.flatMap((clip) => clip.pins.map((pin) => pin.cue))))
const selected = (cue: Cue) => view.selection.kind === 'cue' && view.selection.cue === cue.id

function draw(context: CanvasRenderingContext2D, w: number, height: number): void {
  context.fillStyle = token('paper')
  context.fillRect(0, 0, w, height)
  drawWave(context, w, height)
  drawCueLines(context, height)
  drawRuler(context, w, height)
}

function drawWave(context: CanvasRenderingContext2D, w: number, height: number): void {
  const found = peaks.value
  if (!found) return
  const room = height - HEAD - RULER
  let top = HEAD
  BANDS.forEach((band, index) => {
    const tall = room * band.share
    const middle = top + tall / 2
    context.fillStyle = token(band.token)
    for (let x = 0; x < w; x += 1) {
      const half = (found.between(2 - index, output.value.at(x), output.value.at(x + 1)) * tall) / 2
      if (half > 0.2) context.fillRect(x, middle - half, 1, 2 * half)
    }
    top += tall
  })
}

function drawCueLines(context: CanvasRenderingContext2D, height: number): void {
  for (const cue of seen.value) {
    context.fillStyle = token(CUE_TOKENS[cue.kind ?? 'hand'])
    context.globalAlpha = tied.value.has(cue.id) || cue.kind === 'drop' ? 0.9 : 0.28
    context.fillRect(
      Math.round(output.value.x(timeOf(cue))),
      HEAD - 4,
      tied.value.has(cue.id) ? 2 : 1,
      height - HEAD - RULER + 4,
    )
  }
  context.globalAlpha = 1
}

function drawRuler(context: CanvasRenderingContext2D, w: number, height: number): void {
  const steps = [0.05, 0.1, 0.25, 0.5, 1, 2, 5, 10, 30, 60]
  const step = steps.find((other) => (other / (view.to - view.from)) * w > 64) ?? 60
  context.font = '500 11px "JetBrains Mono Variable", monospace'
  context.fillStyle = token('ink-muted')
  for (let time = Math.max(0, Math.ceil(view.from / step) * step); time <= view.to; time += step) {
    const x = output.value.x(time)
    context.fillRect(Math.round(x), height - RULER, 1, 4)
    context.fillText(`${+time.toFixed(2)} s`, x + 4, height - 3)
  }
}

const local = (event: { clientX: number }) =>
  event.clientX - (canvas.value?.getBoundingClientRect().left ?? 0)

function press(event: PointerEvent): void {
  const seek = (at: PointerEvent) => view.seek(Math.max(0, output.value.at(local(at))))
  const head = event.clientY - canvas.value!.getBoundingClientRect().top < HEAD
  if (!head) {
    seek(event)
    drag(event, seek, () => undefined)
  } else if (edit.song) {
    const time = Math.max(0, Math.min(edit.song.duration, output.value.at(local(event))))
    void edit.run({ do: 'add-cue', time, kind: view.tapKind })
  }
}

function wheel(event: WheelEvent): void {
  event.preventDefault()
  const perPixel = (view.to - view.from) / width.value
  if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY)) {
    view.pan((event.deltaX || event.deltaY) * perPixel)
  } else view.zoom(Math.exp(event.deltaY * 0.0016), output.value.at(local(event)))
}

function grab(event: PointerEvent, cue: Cue): void {
  view.select({ kind: 'cue', cue: cue.id })
  let time = cue.time
  drag(
    event,
    (at) => {
      time = Math.max(0, Math.min(edit.song?.duration ?? 0, output.value.at(local(at))))
      dragged.value = { id: cue.id, time }
      void edit.dryRun({ do: 'change-cue', cue: cue.id, time })
    },
    (moved) => {
      const done = () => (dragged.value = null)
      if (moved) void edit.run({ do: 'change-cue', cue: cue.id, time }).then(done, done)
      else if (!playback.stats.playing) view.seek(cue.time)
    },
  )
}

function keys(event: KeyboardEvent, cue: Cue): void {
  const step = { ArrowLeft: -1, ArrowRight: 1 }[event.key]
  if (event.key === 'Delete' || event.key === 'Backspace') void edit.run({ do: 'remove-cue', cue: cue.id })
  else if (step) {
    const by = event.shiftKey ? 1 / view.outputRate : 0.001
    void edit.run({ do: 'change-cue', cue: cue.id, time: Math.max(0, cue.time + step * by) })
  } else return
  event.preventDefault()
  event.stopPropagation()
}
</script>

<template>
  <div
    class="relative h-full min-h-0 overflow-hidden rounded-md"
    role="group"
    aria-label="Music rail"
    @wheel="wheel"
  >
    <canvas ref="canvas" class="absolute inset-0 h-full w-full" @pointerdown="press" />
    <button
      v-for="cue in seen"
      :key="cue.id"
      class="absolute top-0 left-0 -ml-2 grid h-[18px] w-4 place-items-center rounded-sm"
      :class="selected(cue) ? 'bg-brass/40' : ''"
      :style="{
        transform: `translate(${output.x(timeOf(cue))}px, ${isBeat(cue) ? ROWS.lower : ROWS.upper}px)`,
      }"
      :aria-label="`Cue ${cue.kind} at ${cue.time.toFixed(3)} s`"
      :title="`${cue.kind}, ${cue.time.toFixed(3)} s`"
      @pointerdown="grab($event, cue)"
      @keydown="keys($event, cue)"
      @focus="view.select({ kind: 'cue', cue: cue.id })"
    >
      <svg width="12" height="12" aria-hidden="true">
        <path :d="CUE_SHAPES[cue.kind ?? 'hand']" :fill="`var(--${CUE_TOKENS[cue.kind ?? 'hand']})`" />
      </svg>
    </button>
    <p v-if="!edit.song" class="pointer-events-none absolute inset-0 grid place-items-center text-ink-muted">
      Pick the music first: drop a song on the shelf.
    </p>
  </div>
</template>
