<script setup lang="ts">
/** The teeth of the pulses of the clip at hand, over its curve: one colour and mark a pass, hollow where silent. */
import { computed } from 'vue'
import type { Curve } from '@/composables/useCurve'
import { inkOf, markOf } from '@/lib/pulses'
import { useView } from '@/stores/view'

const props = defineProps<{ curve: Curve; width: number; height: number }>()
const view = useView()
const ROW = 10
/** Pixels that stay free below, where the strip begins. */
const FOOT = 6

const teeth = computed(() =>
  (view.derivedClip?.pulses?.pulses ?? []).flatMap((pulse, row) =>
    pulse.teeth.map((tooth) => ({
      ...tooth,
      pass: pulse.id,
      x: props.curve.x(tooth.n),
      y: props.height - FOOT - (row + 1) * ROW,
      ink: `var(--${inkOf(row)})`,
      mark: markOf(row),
      chosen: view.tooth?.pass === pulse.id && view.tooth.cue === tooth.cue,
    })),
  ),
)
const inView = computed(() => teeth.value.filter(({ x }) => x > -8 && x < props.width + 8))
const choose = ({ pass, cue, chosen }: { pass: string; cue: string; chosen: boolean }) =>
  (view.tooth = chosen ? null : { pass, cue })
</script>

<template>
  <svg class="pointer-events-none absolute inset-0 h-full w-full" role="group" aria-label="Pulse teeth">
    <g
      v-for="tooth in inView"
      :key="`${tooth.pass} ${tooth.cue}`"
      class="pointer-events-auto cursor-pointer"
      role="button"
      tabindex="0"
      :aria-pressed="tooth.chosen"
      :aria-label="`Tooth at frame ${tooth.n}, ${tooth.silent ? 'silent' : `${+tooth.amount.toFixed(2)} frames`}`"
      :transform="`translate(${tooth.x} ${tooth.y})`"
      @click="choose(tooth)"
      @keydown.enter="choose(tooth)"
      @keydown.space.prevent="choose(tooth)"
    >
      <rect x="-8" y="-2" width="16" :height="ROW" fill="transparent" />
      <path
        :d="tooth.mark"
        :fill="tooth.silent ? 'var(--paper)' : tooth.ink"
        :stroke="tooth.chosen ? 'var(--tie-ink)' : tooth.ink"
        :stroke-width="tooth.chosen ? 2.5 : 1"
      />
    </g>
  </svg>
</template>
