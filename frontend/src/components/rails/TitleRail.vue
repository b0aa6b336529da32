<script setup lang="ts">
/** Titles in output time: each as long as it is seen; dragged to other places, and made longer. */
import { useElementSize } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useAxes } from '@/composables/useAxis'
import { useHandleKeys } from '@/composables/useHandleKeys'
import { nearestCue } from '@/lib/cues'
import { drag } from '@/lib/drag'
import { Rows } from '@/lib/rows'
import { titleName, type Title } from '@/lib/titles'
import { useEdit } from '@/stores/edit'
import { useMusic } from '@/stores/music'
import { useView } from '@/stores/view'

const ROW = 15
const MOST_ROWS = 3
/** How far an edge can be grabbed from, and how near to a cue something is drawn to it, in pixels. */
const EDGE = 5
const NEAR = 8
const edit = useEdit()
const view = useView()
const music = useMusic()
const handleKeys = useHandleKeys()
const box = ref<HTMLElement | null>(null)
const { width } = useElementSize(box)
const { frames } = useAxes(width)

const laid = computed(() => {
  const rows = new Rows(MOST_ROWS)
  const shown = new Map(edit.derived?.map.titles.map((each) => [each.id, each]))
  const all = edit.titles
    .map((title) => {
      const seen = shown.get(title.id)
      const first = seen?.first ?? edit.frameOf(title.since)
      return { title, first, last: seen ? first + seen.opacity.length : edit.frameOf(title.until) }
    })
    .sort((a, b) => a.first - b.first)
    .map((each) => ({ ...each, row: rows.take(each.first, each.last) }))
  return { all, rows: rows.count }
})
const inView = computed(() =>
  laid.value.all
    .map((each) => {
      const [left, right] = [frames.value.x(each.first), frames.value.x(each.last)]
      return { ...each, left, wide: Math.max(8, right - left) }
    })
    .filter(({ left, wide }) => left + wide > 0 && left < width.value),
)

/** The cue near a frame, as it is drawn, else the frame. */
function placeAt(frame: number): string | number {
  const cue = nearestCue(music.shown, edit.clock.time(frame))
  if (cue && Math.abs(frames.value.x(cue.frame) - frames.value.x(frame)) <= NEAR) return cue.id
  return Math.max(0, Math.round(frame))
}
function choose({ id }: Title): void {
  view.select({ kind: 'none' })
  view.title = id
}
type Sides = ('since' | 'until')[]
function grab(event: PointerEvent, title: Title, sides: Sides): void {
  choose(title)
  const at = ({ clientX }: PointerEvent) => frames.value.at(clientX - box.value!.getBoundingClientRect().left)
  const begun = at(event)
  const was = { since: edit.frameOf(title.since), until: edit.frameOf(title.until) }
  const saying = (now: PointerEvent) => {
    const by = at(now) - begun
    const to = placeAt(was[sides[0]!] + by)
    const landed = typeof to === 'string' ? edit.cueFrames.get(to)! : to
    const other = sides[1] && { [sides[1]]: edit.placeOn(was[sides[1]] + landed - was[sides[0]!]) }
    return { do: 'change-title', title: title.id, [sides[0]!]: to, ...other } as const
  }
  drag(
    event,
    (now) => void edit.dryRun(saying(now)),
    (moved, now) => {
      if (moved) return void edit.run(saying(now))
      edit.settle()
      view.seekFrame(was.since)
    },
  )
}
function keys(event: KeyboardEvent, title: Title): void {
  if (event.key === 'Enter' || event.key === ' ') {
    choose(title)
    event.preventDefault()
    event.stopPropagation()
    return
  }
  const { id } = title
  handleKeys(event, {
    step: (by, far) => {
      const [since, until] = [title.since, title.until].map(
        (edge) => edit.frameOf(edge) + by * (far ? 10 : 1),
      )
      if (since! >= 0) void edit.run({ do: 'change-title', title: id, since, until })
    },
    remove: () => void edit.run({ do: 'remove-title', title: id }),
  })
}
</script>

<template>
  <div
    v-if="laid.all.length"
    ref="box"
    class="relative shrink-0 overflow-hidden"
    :style="{ height: `${laid.rows * ROW}px` }"
    role="group"
    aria-label="Titles on the edit"
  >
    <button
      v-for="{ title, left, wide, row, first, last } in inView"
      :key="title.id"
      class="absolute h-[14px] cursor-grab truncate rounded-[3px] border px-1.5 text-left text-[10.5px] leading-[12px] font-semibold"
      :class="[
        view.title === title.id ? 'border-white' : 'border-line',
        title.on ? 'bg-text text-ground' : 'bg-raised text-muted',
      ]"
      :style="{ left: `${left}px`, width: `${wide}px`, top: `${row * ROW}px` }"
      :aria-label="`Title ${titleName(title)}, frames ${first} to ${last - 1}${title.on ? '' : ', off'}`"
      :aria-pressed="view.title === title.id"
      @pointerdown="grab($event, title, ['since', 'until'])"
      @keydown="keys($event, title)"
    >
      <span :style="{ paddingLeft: `${Math.max(0, -left)}px` }">{{ titleName(title) }}</span>
      <template v-if="wide > 4 * EDGE">
        <span
          class="absolute inset-y-0 left-0 cursor-ew-resize"
          :style="{ width: `${EDGE}px` }"
          @pointerdown.stop="grab($event, title, ['since'])"
        />
        <span
          v-if="!title.to_end"
          class="absolute inset-y-0 right-0 cursor-ew-resize"
          :style="{ width: `${EDGE}px` }"
          @pointerdown.stop="grab($event, title, ['until'])"
        />
      </template>
    </button>
  </div>
</template>
