<script setup lang="ts">
/** The take from its first frame to its last, or closer: pictures, lanes, moments, proposals, selects. */
import { useElementSize } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import type { Moment, Problem, Proposal, TakeMeasures } from '@/api/client'
import TryAgain from '@/components/TryAgain.vue'
import { linear } from '@/lib/axis'
import { useMomentMoves } from '@/composables/useMomentMoves'
import { useStretch } from '@/composables/useStretch'
import { drag } from '@/lib/drag'
import { momentName } from '@/lib/names'
import { hasRoom, sparse } from '@/lib/sparse'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'
import TakeLanes from './TakeLanes.vue'
import { HEIGHT, KNOB, NAMES, SELECT, SELECTS, STEM } from './takeRail'

const props = defineProps<{
  measures: TakeMeasures | null
  proposals: Proposal[]
  problem: Problem | null
  point: number | null
}>()
defineEmits<{ again: [] }>()

/** Room that a proposal's name takes. */
const NAME = 62
/** Proposals that stand closer are drawn when one looks closer. */
const APART = 14
/** Of more than so many the stems are faint: the lanes are to be seen through them. */
const MANY = 16
const edit = useEdit()
const view = useView()
const rail = ref<HTMLElement | null>(null)
const frames = computed(() => view.take?.frames ?? 1)
const { from, to, all, zoom, wheel, holds: inView } = useStretch(frames, () => view.takeFrame)
watch([() => view.takeId, frames], all, { immediate: true })

const { width } = useElementSize(rail)
const axis = computed(() => linear(from.value, to.value, Math.max(1, width.value - NAMES), NAMES))
const scale = computed(() => axis.value.scale)
const x = (frame: number) => axis.value.x(frame)
const frameAt = (at: number) => axis.value.at(at)
defineExpose({ zoom: (factor: number) => zoom(factor, view.takeFrame + 0.5), fit: all })

const local = (event: MouseEvent) => event.clientX - (rail.value?.getBoundingClientRect().left ?? 0)
function scrub(event: PointerEvent): void {
  if (!view.take) return
  const look = (at: PointerEvent) => view.lookAt(Math.floor(frameAt(local(at))))
  look(event)
  drag(event, look, () => undefined)
}

const { dragMoment, momentKeys } = useMomentMoves((event) => frameAt(local(event)))
function grab(event: PointerEvent, moment: Moment): void {
  view.select({ kind: 'moment', take: view.takeId ?? '', moment: moment.id })
  view.lookAt(moment.frame)
  dragMoment(event, moment)
}
const moments = computed(() => (view.take?.moments ?? []).filter((moment) => inView(moment.frame)))
/** What is proposed and can be told apart here, from moments too; what is looked at is one of them. */
const proposed = computed(() => {
  const found = props.proposals.filter((proposal) => inView(proposal.frame))
  const weights = found.map(({ frame, weight }) => (frame === view.takeFrame ? Infinity : weight))
  const all = [...moments.value, ...found]
  const kept = sparse(
    all.map(({ frame }) => x(frame)),
    [...moments.value.map(() => Infinity), ...weights],
    APART,
  )
  return kept.flatMap((index) => found[index - moments.value.length] ?? [])
})
/** Whether a proposal's name has room before what stands next to its right. */
function named(proposal: Proposal): boolean {
  const others = [...moments.value, ...proposed.value].map((other) => x(other.frame))
  return hasRoom(x(proposal.frame), [...others, width.value], NAME)
}
const selects = computed(() => view.take?.selects ?? [])
const remove = (moment: Moment) =>
  void edit.run({ do: 'remove-moment', take: view.take?.id ?? '', moment: moment.id })
</script>

<template>
  <div
    ref="rail"
    class="relative flex-1 overflow-hidden rounded-md bg-paper"
    :style="{ minHeight: `${HEIGHT}px` }"
    role="group"
    aria-label="Take rail"
    @wheel.prevent="wheel($event, frameAt(local($event)), scale)"
  >
    <TakeLanes :measures="measures" :axis="axis" @pointerdown="scrub" />
    <template v-if="view.take">
      <button
        v-for="(select, index) in selects"
        :key="select.id"
        class="absolute flex h-4 items-center overflow-hidden rounded-sm bg-[color-mix(in_srgb,var(--slow)_45%,var(--paper))] px-1 text-[11px] font-semibold text-ink"
        :style="{
          left: `${Math.max(NAMES, x(select.begin))}px`,
          width: `${Math.max(6, x(select.end + 1) - Math.max(NAMES, x(select.begin)))}px`,
          top: `${SELECTS + (index % 2) * SELECT}px`,
        }"
        :aria-label="`Select ${select.name || index + 1}, frames ${select.begin} to ${select.end}`"
        @click="view.lookAt(select.begin)"
      >
        {{ select.name || `select ${index + 1}` }}
      </button>
      <button
        v-for="proposal in proposed"
        :key="`${proposal.kind} ${proposal.frame}`"
        class="absolute size-3 -ml-1.5 rounded-full border-2 border-ink-muted bg-paper"
        :style="{ left: `${x(proposal.frame)}px`, top: `${STEM}px` }"
        :aria-label="`Proposed: ${proposal.kind} at frame ${proposal.frame}, ${proposal.why}`"
        :title="`${proposal.kind}: ${proposal.why}. Enter keeps it, Delete drops it.`"
        @click="view.lookAt(proposal.frame)"
      >
        <span
          class="pointer-events-none absolute bottom-full left-1/2 border-l border-dashed border-ink-muted"
          :class="proposed.length > MANY ? 'opacity-35' : ''"
          :style="{ height: `${STEM}px` }"
        />
        <span
          v-if="named(proposal)"
          class="absolute top-1/2 left-[13px] -translate-y-1/2 text-[11px] whitespace-nowrap text-ink-muted"
          >{{ proposal.kind }}?</span
        >
      </button>
      <button
        v-for="moment in moments"
        :key="moment.id"
        class="absolute top-0 z-10 flex w-3 -ml-1.5 cursor-ew-resize flex-col items-center"
        :style="{ left: `${x(moment.frame)}px`, height: `${STEM + KNOB}px` }"
        :aria-label="`Moment ${momentName(moment)}${moment.label ? `, frame ${moment.frame}` : ''}`"
        @pointerdown="grab($event, moment)"
        @keydown="momentKeys($event, moment, () => remove(moment))"
        @focus="view.select({ kind: 'moment', take: view.takeId ?? '', moment: moment.id })"
      >
        <span class="w-0.5 flex-1 bg-tie-ink" />
        <span class="size-3 shrink-0 rounded-full bg-tie-ink" />
        <span
          class="absolute bottom-[-3px] left-[15px] max-w-28 truncate bg-paper pr-1 text-[12px] font-semibold text-ink"
        >
          {{ moment.label || moment.kind }}
        </span>
      </button>
      <div
        v-if="point !== null"
        class="pointer-events-none absolute top-0 h-full w-0.5 bg-good"
        :style="{ left: `${x(point)}px` }"
      />
      <div
        class="pointer-events-none absolute top-0 h-full w-0.5 bg-repeat"
        :style="{ left: `${x(view.takeFrame + 0.5)}px` }"
      />
    </template>
    <TryAgain
      v-if="problem"
      class="absolute right-1 bottom-1"
      :problem="problem"
      what="What was seen in this take could not be loaded."
      @again="$emit('again')"
    />
    <p v-if="!view.take" class="absolute inset-0 grid place-items-center text-ink-muted">
      Choose a take on the shelf to look through it here.
    </p>
  </div>
</template>
