<script setup lang="ts">
/** The span at hand: its shape, the shape's values, and what they lead to. */
import { RadioGroup, RadioGroupOption } from '@headlessui/vue'
import { computed } from 'vue'
import type { Clip, Shape, SpanValue } from '@/api/client'
import NumberSlider from '@/components/controls/NumberSlider.vue'
import { percent } from '@/lib/format'
import { momentName } from '@/lib/names'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'

const props = defineProps<{ clip: Clip; span: number }>()
const edit = useEdit()
const view = useView()

type ShapeName = NonNullable<Shape['shape']>
const NAMES: ShapeName[] = ['steady', 'dip', 'build']

const shape = computed(() => props.clip.spans[props.span]!)
const facts = computed(() => edit.derivedById.get(props.clip.id)?.spans[props.span])
const pins = computed(() => [props.clip.pins[props.span]!, props.clip.pins[props.span + 1]!] as const)
const open = computed(() => pins.value.find((pin) => pin.speed != null))
const floor = computed(() => view.derivedClip?.floor ?? 1)
const title = computed(() => {
  const name = (pin: Clip['pins'][number], edge: string) =>
    pin.moment ? momentName(view.take?.moments?.find((moment) => moment.id === pin.moment)) : edge
  return `${name(pins.value[0], 'start')} to ${name(pins.value[1], 'end')}`
})

const at = computed(() => ({ clip: props.clip.id, span: props.span }))
const become = (shape: ShapeName) => void edit.run({ do: 'begin-shape', ...at.value, shape })
const set = (name: SpanValue['name'], value: number) =>
  ({ do: 'set-value', ...at.value, name, value }) as const

function setSpeed(speed: number): void {
  const pin = open.value
  if (!pin) return
  void edit.run({
    do: 'change-edge',
    clip: props.clip.id,
    pin: pin.id,
    n: pin.n ?? null,
    p: pin.p ?? null,
    speed,
  })
}
</script>

<template>
  <section class="flex flex-col gap-3" aria-label="Span">
    <div>
      <h2 class="text-[15px] font-semibold">Span {{ span + 1 }} of {{ clip.spans.length }}</h2>
      <p class="text-muted">{{ title }}</p>
    </div>
    <RadioGroup
      :model-value="shape.shape"
      class="grid grid-cols-3 gap-1 rounded-md bg-ground p-1"
      aria-label="Shape"
      @update:model-value="become"
    >
      <RadioGroupOption v-for="name in NAMES" :key="name" v-slot="{ checked }" :value="name" as="template">
        <button
          class="rounded py-1 text-center capitalize"
          :class="checked ? 'bg-brass font-semibold text-on-brass' : 'hover:bg-raised'"
        >
          {{ name }}
        </button>
      </RadioGroupOption>
    </RadioGroup>

    <NumberSlider
      v-for="value in facts?.values ?? []"
      :key="value.name"
      unit="%"
      :scale="100"
      :step="0.01"
      :label="value.label"
      :min="value.least"
      :max="value.most"
      :value="value.value"
      :solved="value.solved"
      @input="edit.dryRun(set(value.name, $event))"
      @change="edit.run(set(value.name, $event))"
    />
    <button
      v-if="shape.shape === 'dip'"
      class="btn justify-center"
      :disabled="!facts?.smooth_strength"
      :title="facts?.smooth_strength ? '' : 'The mean is at the smooth floor: any dip repeats frames.'"
      @click="edit.run(set('strength', facts!.smooth_strength))"
    >
      Strongest that stays smooth
    </button>

    <NumberSlider
      v-if="open"
      label="Mean speed"
      unit="%"
      :scale="100"
      :min="0.05"
      :max="8"
      :step="0.01"
      :value="open.speed ?? 1"
      @change="setSpeed"
    />

    <dl v-if="facts" class="num grid grid-cols-[1fr_auto] gap-x-3 gap-y-0.5 [&>dd]:text-right">
      <dt class="text-muted">Mean speed</dt>
      <dd>{{ percent(facts.mean) }}</dd>
      <dt class="text-muted">Slowest</dt>
      <dd :class="facts.lowest < floor - 1e-6 ? 'text-bad' : ''">{{ percent(facts.lowest) }}</dd>
      <dt class="text-muted">Fastest</dt>
      <dd>{{ percent(facts.highest) }}</dd>
      <dt class="text-muted">Smooth floor</dt>
      <dd>{{ percent(floor) }}</dd>
      <dt class="text-muted">Repeats</dt>
      <dd :class="facts.repeats ? 'text-bad' : 'text-good'">{{ facts.repeats || 'none' }}</dd>
    </dl>
  </section>
</template>
