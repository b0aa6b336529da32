<script setup lang="ts">
/** All clips as a table: sortable, and a line goes to its place. */
import { computed, ref } from 'vue'
import DialogFrame from '@/components/DialogFrame.vue'
import { useClipName } from '@/composables/useClipName'
import { percent } from '@/lib/format'
import { frameClock } from '@/lib/frameClock'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'

defineProps<{ open: boolean }>()
const emit = defineEmits<{ close: [] }>()
const edit = useEdit()
const view = useView()
const nameOf = useClipName()
const COLUMNS = [
  'clip',
  'from',
  'frames',
  'in',
  'out',
  'average',
  'slowest',
  'fastest',
  'repeats',
  'lands',
] as const
type Column = (typeof COLUMNS)[number]
const by = ref<Column>('from')
const down = ref(false)

/** How fast a clip runs that passes one of its take's frames at each frame of the edit. */
function perFrame(clip: string): number {
  const take = edit.takes.find((other) => other.id === edit.clipById.get(clip)?.take)
  return edit.clock.rate / frameClock(take?.rate ?? '60').rate
}

const rows = computed(() => {
  const found = (edit.derived?.clips ?? []).map((clip) => {
    const spans = clip.spans.filter((span) => span.way !== 0)
    const passed = Math.abs((clip.source.at(-1) ?? 0) - (clip.source[0] ?? 0))
    return {
      id: clip.id,
      clip: nameOf(clip.id),
      from: clip.first,
      frames: clip.source.length,
      in: Math.round(clip.source[0] ?? 0),
      out: Math.round(clip.source[clip.source.length - 1] ?? 0),
      average: (passed * perFrame(clip.id)) / Math.max(1, clip.source.length - 1),
      slowest: Math.min(...spans.map((span) => span.lowest), Infinity),
      fastest: Math.max(...spans.map((span) => span.highest), 0),
      repeats: clip.smoothness.repeats,
      lands: clip.landings.filter((landing) => landing.exact).length - clip.landings.length,
      ties: clip.landings.length,
    }
  })
  const key = by.value
  const order = (a: string | number, b: string | number) => (a < b ? -1 : a > b ? 1 : 0)
  return found.sort((a, b) => order(a[key], b[key]) * (down.value ? -1 : 1))
})

function sort(column: Column): void {
  down.value = by.value === column && !down.value
  by.value = column
}

function go(id: string, n: number): void {
  view.chooseClip(id)
  view.seekFrame(n)
  emit('close')
}
</script>

<template>
  <DialogFrame :open="open" title="All clips" :width="880" @close="$emit('close')">
    <div class="mt-3 min-h-0 overflow-auto">
      <table class="num w-full text-[12px] [&_td]:px-2 [&_td]:py-1 [&_td:not(:first-child)]:text-right">
        <thead>
          <tr>
            <th
              v-for="column in COLUMNS"
              :key="column"
              class="px-2 text-left"
              :aria-sort="by === column ? (down ? 'descending' : 'ascending') : undefined"
            >
              <button class="min-h-6 font-semibold capitalize hover:text-brass" @click="sort(column)">
                {{ column }}{{ by === column ? (down ? ' ↓' : ' ↑') : '' }}
              </button>
            </th>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="row in rows"
            :key="row.id"
            class="cursor-pointer hover:bg-raised"
            :class="view.clip?.id === row.id ? 'bg-raised' : ''"
            @click="go(row.id, row.from)"
          >
            <td>
              <button class="max-w-56 truncate text-left font-semibold" @click.stop="go(row.id, row.from)">
                {{ row.clip }}
              </button>
            </td>
            <td>{{ row.from }}</td>
            <td>{{ row.frames }}</td>
            <td>{{ row.in }}</td>
            <td>{{ row.out }}</td>
            <td>{{ percent(row.average) }}</td>
            <td>{{ percent(Number.isFinite(row.slowest) ? row.slowest : 0) }}</td>
            <td>{{ percent(row.fastest) }}</td>
            <td :class="row.repeats ? 'text-bad' : ''">{{ row.repeats }}</td>
            <td :class="row.lands ? 'text-bad' : 'text-good'">
              {{ row.ties ? `${row.ties + row.lands} of ${row.ties}` : '–' }}
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </DialogFrame>
</template>
