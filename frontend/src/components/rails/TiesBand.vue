<script setup lang="ts">
/** The ties between picture and music: threads fan out where the picture slows and bunch where it runs. */
import { useHandleKeys } from '@/composables/useHandleKeys'
import { computed, ref } from 'vue'
import type { Moment } from '@/api/client'
import { useAxes } from '@/composables/useAxis'
import { useCanvas } from '@/composables/useCanvas'
import { useMomentMoves } from '@/composables/useMomentMoves'
import { useTying } from '@/composables/useTying'
import { token } from '@/lib/colours'
import { nearestCue } from '@/lib/cues'
import { drag } from '@/lib/drag'
import { momentName } from '@/lib/names'
import { useEdit, type PlacedCue } from '@/stores/edit'
import { useMusic } from '@/stores/music'
import { useNotices } from '@/stores/notices'
import { useView } from '@/stores/view'
import { kindName } from '@/lib/terms'

const HEIGHT = 74
const THREAD_PX = 5
const PULL_PX = 18
const edit = useEdit()
const handleKeys = useHandleKeys()
const view = useView()
const music = useMusic()
const notices = useNotices()
const { tieMoment } = useTying()
const canvas = ref<HTMLCanvasElement | null>(null)
/** A tie being pulled from a moment to a cue. */
const pulled = ref<{ moment: Moment; x: number; y: number; cue: PlacedCue | null } | null>(null)

const { width } = useCanvas(canvas, drawThreads)
const { output, frames, source } = useAxes(width)

const moments = computed(() => view.take?.moments ?? [])
const pins = computed(() =>
  (view.clip?.pins ?? []).map((pin, index) => ({ ...pin, at: view.derivedClip?.pins[index] })),
)
const ties = computed(() =>
  pins.value.filter((pin) => pin.moment && pin.at && (pin.cue || pin.loose != null)),
)
const untied = computed(() => moments.value.filter((m) => !pins.value.some((pin) => pin.moment === m.id)))
const momentOf = (id: string) => moments.value.find((moment) => moment.id === id)
const nameOf = (id: string) => momentName(momentOf(id))
const cueX = (n: number) => frames.value.x(n)
const selected = (pin: string) =>
  view.selection.kind === 'pin' && view.selection.clip === view.clip?.id && view.selection.pin === pin
const selectPin = (pin: string) => view.clip && view.select({ kind: 'pin', clip: view.clip.id, pin })

function drawThreads(context: CanvasRenderingContext2D): void {
  const clip = view.derivedClip
  if (!clip) return
  context.strokeStyle = token('text')
  context.globalAlpha = 0.2
  context.lineWidth = 1
  const step = Math.max(1, Math.round(THREAD_PX / frames.value.scale))
  context.beginPath()
  for (let i = 0; i < clip.source.length; i += step) {
    thread(context, source.value.x(clip.source[i]!), cueX(clip.first + i))
  }
  context.stroke()
  context.globalAlpha = 1
}

function thread(context: CanvasRenderingContext2D, top: number, bottom: number): void {
  context.moveTo(top, 0)
  context.bezierCurveTo(top, HEIGHT * 0.55, bottom, HEIGHT * 0.45, bottom, HEIGHT)
}

const path = (top: number, bottom: number, height = HEIGHT) =>
  `M${top} 0C${top} ${height * 0.55} ${bottom} ${height * 0.45} ${bottom} ${height}`

const local = (event: PointerEvent) => {
  const box = canvas.value!.getBoundingClientRect()
  return { x: event.clientX - box.left, y: event.clientY - box.top }
}

const cueUnder = (x: number) => nearestCue(music.shown, output.value.at(x))

/** Tie a moment to a cue: in the clip that shows the take, or by laying the take. */
function tie(moment: Moment, cue: PlacedCue): void {
  const take = view.takeId
  if (take) void tieMoment(take, moment, cue.id)
}

function pull(event: PointerEvent, moment: Moment): void {
  view.select({ kind: 'moment', take: view.takeId ?? '', moment: moment.id })
  view.lookAt(moment.frame)
  drag(
    event,
    (at) => {
      const { x, y } = local(at)
      pulled.value = {
        moment,
        x,
        y: Math.min(HEIGHT, Math.max(0, y)),
        cue: y > PULL_PX ? cueUnder(x) : null,
      }
    },
    () => {
      const cue = pulled.value?.cue
      pulled.value = null
      if (cue) tie(moment, cue)
    },
  )
}

const { dragMoment, momentKeys } = useMomentMoves((event) => source.value.at(local(event).x))

function dragTop(event: PointerEvent, pin: string, id: string): void {
  const moment = momentOf(id)
  if (!moment) return
  selectPin(pin)
  dragMoment(event, moment)
}

function dragBottom(event: PointerEvent, pin: string, cueId?: string | null): void {
  const clip = view.clip
  if (!clip) return
  selectPin(pin)
  let cue = cueId ?? undefined
  let before = local(event).x
  const command = (to = cue) => ({ do: 'change-tie', clip: clip.id, pin, cue: to }) as const
  const beside = (id?: string) => (id ? [1, -1].map((step) => command(cueBeside(id, step)?.id)) : [])
  void edit.foresee(...beside(cue))
  drag(
    event,
    (at) => {
      const { x } = local(at)
      cue = cueUnder(x)?.id ?? cue
      // A hand goes on the way it goes: the cue there is asked for before it arrives.
      void edit.dryRun(command(), command(cueUnder(2 * x - before)?.id), ...beside(cue))
      before = x
    },
    (moved) => (moved && cue !== cueId ? void edit.run(command()) : edit.settle()),
  )
}

function topKeys(event: KeyboardEvent, pin: string, id: string): void {
  const moment = momentOf(id)
  if (moment) momentKeys(event, moment, () => removePin(pin))
}

const removePin = (pin: string) => void (view.clip && edit.run({ do: 'remove-pin', clip: view.clip.id, pin }))

/** The next cue on one side that lands on another frame; several may share an instant. */
function cueBeside(id: string, step: number): PlacedCue | undefined {
  const frames = edit.cueFrames
  const ordered = step > 0 ? music.shown : [...music.shown].reverse()
  return ordered.find((cue) => (frames.get(cue.id)! - frames.get(id)!) * step > 0)
}

function bottomKeys(event: KeyboardEvent, pin: string, cueId?: string | null): void {
  const clip = view.clip
  if (!clip) return
  handleKeys(event, {
    step: (by) => {
      const next = cueId ? cueBeside(cueId, by) : nearestCue(music.shown, view.playhead)
      if (next) void edit.run({ do: 'change-tie', clip: clip.id, pin, cue: next.id })
    },
    remove: () => removePin(pin),
  })
}

function knobKeys(event: KeyboardEvent, moment: Moment): void {
  if (event.key !== 'Enter') return
  const selection = view.selection
  const chosen = selection.kind === 'cues' ? edit.cueById.get(selection.cues[0] ?? '') : undefined
  const cue = chosen ?? nearestCue(music.shown, view.playhead)
  if (cue) tie(moment, cue)
  else notices.news('There is no cue to tie it to yet.')
  event.stopPropagation()
}
</script>

<template>
  <div class="relative z-10" :style="{ height: `${HEIGHT}px` }" role="group" aria-label="Ties">
    <canvas ref="canvas" class="absolute inset-0 h-full w-full" />
    <svg class="absolute inset-0 h-full w-full overflow-visible" :class="pulled ? 'cursor-grabbing' : ''">
      <g v-for="pin in ties" :key="pin.id">
        <path
          :d="path(source.x(pin.at!.p), cueX(pin.at!.n))"
          fill="none"
          stroke="var(--brass)"
          :stroke-width="selected(pin.id) ? 4 : 2.5"
          :stroke-dasharray="pin.cue ? undefined : '3 5'"
        />
        <circle
          class="cursor-ew-resize"
          :cx="source.x(pin.at!.p)"
          cy="2"
          :r="selected(pin.id) ? 7 : 6"
          fill="var(--brass)"
          stroke="var(--ground)"
          role="slider"
          tabindex="0"
          :aria-label="`Source frame of ${nameOf(pin.moment!)}`"
          :aria-valuenow="Math.round(pin.at!.p)"
          aria-valuemin="0"
          :aria-valuemax="(view.take?.frames ?? 1) - 1"
          @pointerdown="dragTop($event, pin.id, pin.moment!)"
          @keydown="topKeys($event, pin.id, pin.moment!)"
          @focus="selectPin(pin.id)"
        />
        <circle
          class="cursor-ew-resize"
          :cx="cueX(pin.at!.n)"
          :cy="HEIGHT - 3"
          :r="selected(pin.id) ? 7 : 6"
          fill="var(--brass)"
          stroke="var(--ground)"
          role="slider"
          tabindex="0"
          :data-work="pin.moment"
          :aria-label="`${pin.cue ? 'Cue' : 'Loose end'} of ${nameOf(pin.moment!)}`"
          :aria-valuenow="pin.at!.n"
          aria-valuemin="0"
          :aria-valuemax="edit.clock.next(edit.over)"
          :aria-valuetext="`output frame ${pin.at!.n}`"
          @pointerdown="dragBottom($event, pin.id, pin.cue)"
          @keydown="bottomKeys($event, pin.id, pin.cue)"
          @focus="selectPin(pin.id)"
        />
      </g>
      <circle
        v-for="moment in untied"
        :key="moment.id"
        class="cursor-grab"
        :cx="source.x(moment.frame)"
        cy="5"
        r="6"
        fill="var(--ground)"
        stroke="var(--brass)"
        stroke-width="2.5"
        role="button"
        tabindex="0"
        :data-work="moment.id"
        :aria-label="`Tie ${momentName(moment)} to a cue`"
        @pointerdown="pull($event, moment)"
        @keydown="knobKeys($event, moment)"
      >
        <title>Pull down to a cue</title>
      </circle>
      <g v-if="pulled" class="pointer-events-none">
        <path
          :d="
            path(
              source.x(pulled.moment.frame),
              pulled.cue ? output.x(pulled.cue.at) : pulled.x,
              pulled.cue ? HEIGHT : pulled.y,
            )
          "
          fill="none"
          stroke="var(--brass)"
          stroke-width="3"
          stroke-dasharray="5 4"
        />
        <text
          v-if="pulled.cue"
          :x="output.x(pulled.cue.at) + 8"
          :y="HEIGHT - 8"
          fill="var(--brass)"
          class="num text-[12px] font-bold"
        >
          {{ kindName(pulled.cue.kind) }} {{ pulled.cue.at.toFixed(3) }} s
        </text>
      </g>
    </svg>
    <p
      v-if="view.take && !ties.length && !pulled"
      class="pointer-events-none absolute inset-x-0 bottom-2 text-center text-muted"
    >
      {{
        untied.length
          ? 'Pull a brass knob down to a cue: that moment will land there.'
          : 'Mark the hit in the picture rail: step with [ and ], then press H.'
      }}
    </p>
  </div>
</template>
