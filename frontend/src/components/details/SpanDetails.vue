<script setup lang="ts">
/** The span at hand: its shape, the shape's values, and what they lead to. */
import { RadioGroup, RadioGroupOption } from '@headlessui/vue'
import { computed } from 'vue'
import type { Clip, Shape } from '@/api/client'
import NumberSlider from '@/components/controls/NumberSlider.vue'
import { percent } from '@/lib/format'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'

const props = defineProps<{ clip: Clip; span: number }>()
const edit = useEdit()
const view = useView()

type ShapeName = NonNullable<Shape['shape']>
type Build = Extract<Shape, { shape?: 'build' }>
const NAMES: ShapeName[] = ['steady', 'dip', 'build']
const SLOW_START = 0.5
const CHANGE_AT = 0.6

const shape = computed(() => props.clip.spans[props.span]!)
const facts = computed(() => view.derivedClip?.spans[props.span])
const pins = computed(() => [props.clip.pins[props.span]!, props.clip.pins[props.span + 1]!] as const)
const open = computed(() => pins.value.find((pin) => pin.speed != null))
const floor = computed(() => view.derivedClip?.floor ?? 1)
const title = computed(() => {
  const name = (pin: Clip['pins'][number], edge: string) =>
    view.take?.moments?.find((moment) => moment.id === pin.moment)?.label || (pin.moment ? pin.moment : edge)
  return `${name(pins.value[0], 'start')} to ${name(pins.value[1], 'end')}`
})

const command = (next: Shape) =>
  ({ do: 'shape-span', clip: props.clip.id, span: props.span, shape: next }) as const
const preview = (next: Shape) => void edit.dryRun(command(next))
const keep = (next: Shape) => void edit.run(command(next))

function become(name: ShapeName): void {
  const mean = facts.value?.mean ?? 1
  if (name === 'steady') keep({ shape: 'steady' })
  else if (name === 'dip') keep({ shape: 'dip', strength: 0.5, reach: 0.5, softness: 1 })
  else keep({ shape: 'build', start: mean * SLOW_START, change: CHANGE_AT, end: null, softness: 0.5 })
}

const solved = computed(() => {
  if (shape.value.shape !== 'build') return null
  const build = shape.value as Build
  return build.start == null ? 'start' : build.end == null ? 'end' : 'change'
})

/** A build with one value set; of the other two, the one that was given stays given. */
function withValue(name: 'start' | 'end' | 'change', value: number): Shape {
  const build = shape.value as Build
  const now = {
    start: facts.value?.start ?? 1,
    end: facts.value?.end ?? 1,
    change: facts.value?.change ?? 0.5,
  }
  const leave = solved.value !== name ? solved.value! : name === 'end' ? 'start' : 'end'
  return { ...build, ...now, [name]: value, [leave]: null }
}

interface Field {
  label: string
  value: number
  min: number
  max: number
  solved?: boolean
  become: (value: number) => Shape
}

const fields = computed<Field[]>(() => {
  const now = shape.value
  const { mean = 1, start = 1, end = 1, change = 0.5 } = facts.value ?? {}
  const softness: Field = {
    label: 'Softness', value: 'softness' in now ? (now.softness ?? 1) : 1, min: 0, max: 1,
    become: (value) => ({ ...now, softness: value }) as Shape,
  } // prettier-ignore
  if (now.shape === 'dip') {
    const { strength = 0.5, reach = 0.5 } = now
    return [
      { label: 'Strength', value: strength, min: 0, max: 1, become: (value) => ({ ...now, strength: value }) },
      { label: 'Reach of the fast ends', value: reach, min: 0.05, max: 0.95, become: (value) => ({ ...now, reach: value }) },
      softness,
    ] // prettier-ignore
  }
  if (now.shape !== 'build') return []
  const part = (label: string, name: 'start' | 'end' | 'change', value: number, min: number, max: number): Field => ({
    label, value, min, max, solved: solved.value === name, become: (next) => withValue(name, next),
  }) // prettier-ignore
  return [
    part('Start at', 'start', start ?? 1, 0.01, Math.max(0.02, mean)),
    part('Change after', 'change', change ?? 0.5, 0.02, 0.98),
    part('Then', 'end', end ?? 1, mean, Math.max(8, (end ?? 1) * 1.2)),
    softness,
  ]
})

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
      v-for="field in fields"
      :key="field.label"
      unit="%"
      :scale="100"
      :step="0.01"
      :label="field.label"
      :min="field.min"
      :max="field.max"
      :value="field.value"
      :solved="field.solved"
      @input="preview(field.become($event))"
      @change="keep(field.become($event))"
    />
    <button
      v-if="shape.shape === 'dip'"
      class="btn justify-center"
      :disabled="!facts?.smooth_strength"
      :title="facts?.smooth_strength ? '' : 'The mean is at the smooth floor: any dip repeats frames.'"
      @click="keep({ ...shape, strength: facts!.smooth_strength })"
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
