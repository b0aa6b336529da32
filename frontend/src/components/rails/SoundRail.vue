<script setup lang="ts">
/** Laid sounds in output time: each rises to what lands of it, and falls from there; dragged to other cues. */
import { useElementSize } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useAnchorMoves, type Standing } from '@/composables/useAnchorMoves'
import { useAxes } from '@/composables/useAxis'
import { Rows } from '@/lib/rows'
import { soundName, type Sound } from '@/lib/sounds'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'

const ROW = 14
const MOST_ROWS = 4
/** Seconds by which one may begin before another has ended, and yet follow it. */
const TOUCHING = 0.01
const edit = useEdit()
const view = useView()
const box = ref<HTMLElement | null>(null)
const { width } = useElementSize(box)
const { frames, output, gutter } = useAxes(width)
const moves = useAnchorMoves((event) =>
  frames.value.at(event.clientX - box.value!.getBoundingClientRect().left),
)
const standing = (sound: Sound): Standing => ({
  at: sound.at,
  choose: () => {
    view.select({ kind: 'none' })
    view.sound = sound.id
  },
  moved: (at) => ({ do: 'change-sound', sound: sound.id, at }),
  removed: () => ({ do: 'remove-sound', sound: sound.id }),
})

/** Each in a row of its own where it meets others. */
const heard = computed(() => {
  const rows = new Rows(MOST_ROWS, TOUCHING)
  const places = edit.sounds
    .flatMap((sound) => {
      const places = edit.derived?.sounds.find(({ id }) => id === sound.id)?.heard ?? []
      return places.map((place, i) => ({ sound, key: `${sound.id} ${i}`, ...place }))
    })
    .sort((a, b) => a.begin - b.begin)
    .map((each) => ({ ...each, row: rows.take(each.begin, each.end) }))
  return { places, rows: rows.count }
})
const inView = computed(() =>
  heard.value.places
    .map((each) => {
      const [left, at, right] = [each.begin, each.at, each.end].map((time) => output.value.x(time)) as [
        number,
        number,
        number,
      ]
      const [base, top] = [each.row * ROW + ROW - 1, each.row * ROW + 2]
      const shape = `M${left},${base} L${at},${top} L${Math.max(right, left + 5)},${base}Z`
      return { ...each, left, right, x: at, y: each.row * ROW, shape }
    })
    .filter(({ left, right }) => right > gutter.value && left < width.value),
)
</script>

<template>
  <div
    v-if="heard.places.length"
    ref="box"
    class="relative shrink-0 overflow-hidden"
    :style="{ height: `${heard.rows * ROW}px` }"
    role="group"
    aria-label="Sounds on the music"
  >
    <span
      v-if="gutter"
      class="pointer-events-none absolute top-0 left-0 px-1.5 text-[11px] leading-[14px] text-muted"
      aria-hidden="true"
    >
      sounds
    </span>
    <svg class="absolute inset-0 h-full w-full">
      <g
        v-for="each in inView"
        :key="each.key"
        class="cursor-grab"
        role="button"
        tabindex="0"
        :aria-label="`${soundName(each.sound)} at ${each.at.toFixed(3)} s${each.sound.on ? '' : ', off'}`"
        :aria-pressed="view.sound === each.sound.id"
        @pointerdown="moves.grab($event, standing(each.sound), Math.round(edit.clock.at(each.at)))"
        @keydown="moves.keys($event, standing(each.sound))"
      >
        <rect
          :x="each.left"
          :y="each.y"
          :width="Math.max(10, each.right - each.left)"
          :height="ROW"
          fill="transparent"
        />
        <path
          :d="each.shape"
          fill="var(--slow)"
          :fill-opacity="each.sound.on ? 0.75 : 0.15"
          :stroke="view.sound === each.sound.id ? '#fff' : '#9ccbd8'"
          :stroke-width="view.sound === each.sound.id ? 2 : 1"
        />
        <text
          v-if="each.right - each.left > 64"
          :x="Math.max(each.left, gutter) + 6"
          :y="each.y + ROW - 3"
          class="pointer-events-none fill-text text-[10px] font-semibold"
        >
          {{ soundName(each.sound) }}
        </text>
      </g>
    </svg>
  </div>
</template>
