<script setup lang="ts">
/** Step, shuttle, jump and mark in a take. */
import { ChevronLeft, ChevronRight, ChevronsLeft, ChevronsRight, Maximize2, Pause, Play, ZoomIn, ZoomOut } from '@lucide/vue' // prettier-ignore
import type { TakeWork } from '@/composables/useTakeWork'
import { vTyped } from '@/lib/typing'
import { useView } from '@/stores/view'

const props = defineProps<{ work: TakeWork }>()
defineEmits<{ zoom: [factor: number]; fit: [] }>()
const view = useView()

/** A frame's number, or a timecode of the take: minutes, seconds, frames. */
function go(event: Event): void {
  const input = event.target as HTMLInputElement
  const parts = input.value.trim().split(':').map(Number)
  if (parts.length && parts.every(Number.isFinite)) {
    const frame = parts.pop()!
    const seconds = parts.reduce((sum, part) => sum * 60 + part, 0)
    props.work.step(Math.round(view.takeClock.at(seconds)) + frame - view.takeFrame)
  }
  input.value = String(view.takeFrame)
}
</script>

<template>
  <div
    class="flex min-h-9 flex-wrap items-center gap-x-2 gap-y-1 bg-ground whitespace-nowrap"
    role="toolbar"
    aria-label="Looking through the take"
  >
    <button class="btn btn-main w-22 justify-center" title="Space" @click="work.toggle()">
      <component :is="work.speed.value ? Pause : Play" :size="16" />{{ work.speed.value ? 'Pause' : 'Play' }}
    </button>
    <button class="btn" aria-label="Shuttle back" title="W: each press faster" @click="work.shuttle(-1)">
      <ChevronsLeft :size="15" />
    </button>
    <button class="btn" aria-label="One frame earlier" title="Left arrow" @click="work.step(-1)">
      <ChevronLeft :size="15" />
    </button>
    <button class="btn" aria-label="One frame later" title="Right arrow" @click="work.step(1)">
      <ChevronRight :size="15" />
    </button>
    <button class="btn" aria-label="Shuttle on" title="E: each press faster" @click="work.shuttle(1)">
      <ChevronsRight :size="15" />
    </button>
    <label class="flex items-center gap-1.5">
      <span class="text-muted">Frame</span>
      <input
        v-typed="view.takeFrame"
        class="field num w-16"
        aria-label="Frame or timecode"
        title="A frame's number, or minutes:seconds:frames"
        @change="go"
      />
    </label>
    <span class="num min-w-0 text-brass" role="status">{{
      work.speed.value && Math.abs(work.speed.value) !== 1 ? `${work.speed.value}×` : ''
    }}</span>
    <button class="btn" title="N; with Shift the one before" @click="work.toProposal(1)">
      Next proposal
    </button>
    <button
      class="btn"
      :class="work.point.value === null ? '' : 'text-good!'"
      title="I"
      @click="work.setPoint()"
    >
      {{ work.point.value === null ? 'Begin a select' : 'End it here' }}
    </button>
    <span class="flex-1" />
    <button class="btn" aria-label="Zoom out" title="−" @click="$emit('zoom', 1.6)">
      <ZoomOut :size="15" />
    </button>
    <button class="btn" aria-label="Zoom in" title="+" @click="$emit('zoom', 1 / 1.6)">
      <ZoomIn :size="15" />
    </button>
    <button class="btn" aria-label="The whole take" title="The whole take (F)" @click="$emit('fit')">
      <Maximize2 :size="15" />
    </button>
  </div>
</template>
