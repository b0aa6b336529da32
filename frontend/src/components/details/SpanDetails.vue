<script setup lang="ts">
/** The span at hand: its shape, the shape's values, what it says of itself, and what that leads to. */
import { computed, ref } from 'vue'
import type { Clip, Shape } from '@/api/client'
import ChoiceRow from '@/components/controls/ChoiceRow.vue'
import NumberField from '@/components/controls/NumberField.vue'
import NumberSlider from '@/components/controls/NumberSlider.vue'
import { option } from '@/lib/cues'
import { percent } from '@/lib/format'
import { momentName } from '@/lib/names'
import { isLess } from '@/lib/rounding'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'
import AccentWork from './AccentWork.vue'
import MotionWork from './MotionWork.vue'
import KnotList from './KnotList.vue'
import SpanValueSlider from './SpanValueSlider.vue'

const props = defineProps<{ clip: Clip; span: number }>()
const edit = useEdit()
const view = useView()

type ShapeName = NonNullable<Shape['shape']>
const NAMES: ShapeName[] = ['steady', 'dip', 'swell', 'build', 'brake', 'hold', 'rewind', 'custom']
const SHAPES = NAMES.map(option)

const shape = computed(() => props.clip.spans[props.span]!)
const derived = computed(() => edit.derivedById.get(props.clip.id))
const facts = computed(() => derived.value?.spans[props.span])
const pins = computed(() => [props.clip.pins[props.span]!, props.clip.pins[props.span + 1]!] as const)
const floor = computed(() => derived.value?.floor ?? 1)
const under = computed(() => !!facts.value?.way && isLess(facts.value.lowest, floor.value))
const title = computed(() => {
  const name = (pin: Clip['pins'][number], edge: string) =>
    pin.moment ? momentName(view.take?.moments?.find((moment) => moment.id === pin.moment)) : edge
  return `${name(pins.value[0], 'start')} to ${name(pins.value[1], 'end')}`
})
/** An end of the clip whose first or last span can begin earlier or end later in the take. */
const end = computed(() =>
  props.span === 0 ? 'start' : props.span === props.clip.spans.length - 1 ? 'end' : null,
)
const repeats = ref(4)
/** Repeats that no span reaches: its speed alone limits the bend. */
const MANY = 1_000_000

/** Whether the span says its own speed; where its pins say it, its ends stay and it bends. */
const open = computed(() => shape.value.speed != null)
const at = computed(() => ({ clip: props.clip.id, span: props.span }))
const become = (shape: ShapeName) => void edit.run({ do: 'begin-shape', ...at.value, shape })
const say = (speed: number) => ({ do: 'set-span', ...at.value, speed }) as const
const strengthen = (repeats = 0) => void edit.run({ do: 'strengthen', ...at.value, repeats })
const first = computed(() =>
  (facts.value?.values ?? []).filter(({ name }) => name !== 'softness' && name !== 'frames'),
)
/** The limit that no speed of the span may pass, 1 is 100 %. */
const top = ref(4)
const rare = computed(() => (facts.value?.values ?? []).filter((value) => value.name === 'softness'))
</script>

<template>
  <section class="flex flex-col gap-3" aria-label="Span">
    <div>
      <h2 class="text-[15px] font-semibold">Span {{ span + 1 }} of {{ clip.spans.length }}</h2>
      <p class="truncate text-muted" :title="title">{{ title }}</p>
    </div>
    <ChoiceRow
      class="grid-cols-4 capitalize"
      label="Shape"
      :value="shape.shape"
      :options="SHAPES"
      @change="become"
    />

    <NumberSlider
      v-if="shape.speed != null"
      label="Average speed"
      unit="%"
      :scale="100"
      :min="0.05"
      :max="8"
      :step="0.01"
      :value="shape.speed"
      @input="edit.dryRun(say($event))"
      @change="edit.run(say($event))"
    />
    <NumberField
      v-if="shape.frames != null"
      label="Length, output frames"
      :min="1"
      :value="shape.frames"
      @change="edit.run({ do: 'set-span', ...at, frames: Math.round($event) })"
    />
    <p v-if="shape.shape === 'rewind' && shape.mirror" class="text-muted">
      The way back mirrors the span before it, picture for picture.
    </p>
    <template v-if="shape.shape === 'custom'">
      <KnotList v-bind="at" :shape="shape" :values="first" />
      <p class="-mt-1 text-muted">
        A double click on the curve adds one too. Those that are not locked scale until the span fits.
      </p>
    </template>
    <template v-else>
      <SpanValueSlider v-for="value in first" :key="value.name" v-bind="at" :value="value" />
    </template>

    <div v-if="facts?.smooth_strength != null" class="flex flex-col gap-1">
      <button class="btn justify-center" @click="strengthen()">Strongest that stays smooth</button>
    </div>
    <button
      v-if="end && under && shape.speed == null"
      class="btn justify-center"
      @click="edit.run({ do: 'borrow', clip: clip.id, end })"
    >
      {{ end === 'start' ? 'Begin earlier in the take' : 'End later in the take' }}
    </button>

    <dl v-if="facts" class="num grid grid-cols-[1fr_auto] gap-x-3 gap-y-0.5 [&>dd]:text-right">
      <dt class="text-muted">Average speed</dt>
      <dd>{{ facts.way < 0 ? '−' : '' }}{{ percent(facts.mean) }}</dd>
      <dt class="text-muted">Slowest</dt>
      <dd :class="under ? 'text-bad' : ''">{{ percent(facts.lowest) }}</dd>
      <dt class="text-muted">Fastest</dt>
      <dd>{{ percent(facts.highest) }}</dd>
      <dt class="text-muted">Smooth floor</dt>
      <dd>{{ floor ? percent(floor) : 'none' }}</dd>
      <dt class="text-muted">Repeats</dt>
      <dd :class="facts.repeats ? 'text-bad' : 'text-good'">{{ facts.repeats || 'none' }}</dd>
    </dl>
    <AccentWork
      :at="{ to: 'ties', ties: [{ clip: clip.id, pin: pins[1].id }], side: 'into' }"
      place="this span"
    />
    <details>
      <summary class="cursor-pointer text-muted">In-between frames</summary>
      <MotionWork class="mt-2" :clip="clip" :span="span" />
    </details>
    <details v-if="rare.length || facts?.smooth_strength != null">
      <summary class="cursor-pointer text-muted">More</summary>
      <div class="mt-2 flex flex-col gap-3">
        <SpanValueSlider v-for="value in rare" :key="value.name" v-bind="at" :value="value" />
        <div v-if="facts?.smooth_strength != null" class="grid grid-cols-[1fr_auto] items-end gap-2">
          <NumberField
            label="Repeats that are allowed"
            :min="0"
            :value="repeats"
            @change="repeats = $event"
          />
          <button class="btn" @click="strengthen(Math.max(0, Math.round(repeats)))">Bend so far</button>
          <NumberField label="Fastest, %" :min="1" :value="top * 100" @change="top = $event / 100" />
          <button class="btn" @click="edit.run({ do: 'strengthen', ...at, repeats: MANY, top })">
            Bend so far
          </button>
        </div>
      </div>
    </details>
    <div class="grid grid-cols-2 gap-1">
      <button class="btn justify-center" title="S" @click="edit.run({ do: 'nudge', ...at, way: 'slower' })">
        {{ open ? 'Slower' : 'More ramp' }}
      </button>
      <button class="btn justify-center" title="D" @click="edit.run({ do: 'nudge', ...at, way: 'faster' })">
        {{ open ? 'Faster' : 'Less ramp' }}
      </button>
    </div>
  </section>
</template>
