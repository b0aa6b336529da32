<script setup lang="ts">
/** Accents in output time, under the clips: each as wide as its lead and tail, highest on its place; dragged there. */
import { useElementSize } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useAccentMoves } from '@/composables/useAccentMoves'
import { useAxes } from '@/composables/useAxis'
import { accentName, inksOf, type Accent } from '@/lib/accents'
import { Rows } from '@/lib/rows'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'

const ROW = 13
const MOST_ROWS = 5
/** How far the edge of a course can be grabbed from, and the least width that has edges, in pixels. */
const EDGE = 5
const edit = useEdit()
const view = useView()
const box = ref<HTMLElement | null>(null)
const { width } = useElementSize(box)
const { frames } = useAxes(width)
const { grab, keys, grabEdge } = useAccentMoves((event) =>
  frames.value.at(event.clientX - box.value!.getBoundingClientRect().left),
)

interface Course {
  accent: Accent
  key: string
  first: number
  last: number
  spot: number
  /** Where it is fullest: from one frame to before another. */
  since: number
  until: number
}
const courses = computed<Course[]>(() =>
  edit.accents.flatMap((accent) => {
    const where = edit.derived?.accents.find(({ id }) => id === accent.id)
    return Array.from(where?.first ?? [], (first, i) => {
      const key = `${accent.id} ${i}`
      const [last, until] = [first + where!.count[i]!, where!.until[i]! + 1]
      return { accent, key, first, last, spot: where!.spot[i]!, since: where!.since[i]!, until }
    })
  }),
)
/** Each accent has a row of its own where it meets others. */
const rows = computed(() => {
  const rows = new Rows(MOST_ROWS)
  const of = new Map<string, number>()
  for (const { accent, first, last } of [...courses.value].sort((a, b) => a.first - b.first))
    of.set(accent.id, rows.take(first, last, of.get(accent.id)))
  return { of, count: rows.count }
})
const inView = computed(() =>
  courses.value
    .map((course) => {
      const [left, right, from, to] = [course.first, course.last, course.since, course.until].map((n) =>
        frames.value.x(n),
      ) as [number, number, number, number]
      const y = rows.value.of.get(course.accent.id)! * ROW
      const [base, top] = [y + ROW - 1, y + 2]
      // It rises over its lead, is full, and falls over its tail.
      const shape = `M${left},${base} L${from},${top} L${to},${top} L${Math.max(right, left + 4)},${base}Z`
      return { ...course, left, right, y, shape }
    })
    .filter(({ left, right }) => right > 0 && left < width.value),
)
const said = ({ accent, first, last }: Course) =>
  `${accentName(accent.what.kind)}, frames ${first} to ${last - 1}${accent.on ? '' : ', off'}`
</script>

<template>
  <div
    v-if="courses.length"
    ref="box"
    class="relative overflow-hidden"
    :style="{ height: `${rows.count * ROW}px` }"
    role="group"
    aria-label="Accents"
    :class="view.accented ? '' : 'opacity-40'"
  >
    <svg class="absolute inset-0 h-full w-full">
      <g
        v-for="course in inView"
        :key="course.key"
        class="cursor-grab"
        role="button"
        tabindex="0"
        :aria-label="said(course)"
        :aria-pressed="view.accent === course.accent.id"
        @pointerdown="grab($event, course.accent, course.spot)"
        @keydown="keys($event, course.accent)"
      >
        <rect
          :x="course.left"
          :y="course.y"
          :width="Math.max(10, course.right - course.left)"
          :height="ROW"
          fill="transparent"
        />
        <path
          :d="course.shape"
          :fill="inksOf(course.accent.what.kind)[0]"
          :fill-opacity="course.accent.on ? 0.85 : 0.15"
          :stroke="view.accent === course.accent.id ? '#fff' : inksOf(course.accent.what.kind)[1]"
          :stroke-width="view.accent === course.accent.id ? 2 : 1"
        />
        <text
          v-if="course.right - course.left > 60"
          :x="Math.max(course.left, 0) + 6"
          :y="course.y + ROW - 3"
          class="pointer-events-none text-[10px] font-semibold"
          fill="#fff"
        >
          {{ accentName(course.accent.what.kind) }}
        </text>
        <template v-if="course.right - course.left > 4 * EDGE">
          <rect
            v-for="side in ['lead', 'tail'] as const"
            :key="side"
            :x="side === 'lead' ? course.left - EDGE : course.right - EDGE"
            :y="course.y"
            :width="2 * EDGE"
            :height="ROW"
            fill="transparent"
            class="cursor-ew-resize"
            @pointerdown.stop="
              grabEdge(
                $event,
                course.accent,
                side,
                side === 'lead' ? course.since - course.first : course.last - course.until,
              )
            "
          />
        </template>
      </g>
    </svg>
  </div>
</template>
