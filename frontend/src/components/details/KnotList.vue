<script setup lang="ts">
/** The knots of a span of one's own shape: speed and place, which keep their speed, how they are joined. */
import { Lock, LockOpen, Plus, Trash2 } from '@lucide/vue'
import { computed } from 'vue'
import type { CustomShape, SpanValue } from '@/api/client'
import ChoiceRow from '@/components/controls/ChoiceRow.vue'
import NumberField from '@/components/controls/NumberField.vue'
import { option } from '@/lib/cues'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'

const props = defineProps<{ clip: string; span: number; shape: CustomShape; values: SpanValue[] }>()
const edit = useEdit()
type Knot = CustomShape['knots'][number]
const JOINS = (['hard', 'straight', 'soft'] as const).map(option)

/** The speed and the place of each knot, as they came out. */
const rows = computed(() =>
  props.shape.knots.map((knot, index) => ({
    knot,
    values: props.values.filter((value) => value.name.startsWith(`knot-${index}-`)),
  })),
)
const speedOf = (index: number) => rows.value[index]?.values[0]?.value
const set = (name: string, value: number) =>
  edit.run({ do: 'set-value', clip: props.clip, span: props.span, name, value })
const become = (knots: Knot[]) =>
  edit.run({ do: 'shape-span', clip: props.clip, span: props.span, shape: { ...props.shape, knots } })
/** A knot that is locked keeps the speed that it has now. */
const change = (index: number, changes: Partial<Knot>) =>
  become(
    props.shape.knots.map((knot, i) =>
      i === index ? { ...knot, speed: speedOf(index) ?? knot.speed, ...changes } : knot,
    ),
  )
const view = useView()
/** Where a new knot comes: at the playhead, or, where that is elsewhere, in the widest gap. */
const next = computed(() => {
  const [begin, end] = edit.derivedById.get(props.clip)?.pins.slice(props.span) ?? []
  const part = begin && end ? (view.frame - begin.n) / (end.n - begin.n) : 0
  return part > 0 && part < 1 ? { at: part, where: ' at the playhead' } : { at: widest(), where: '' }
})
function widest(): number {
  const places = [0, ...props.shape.knots.map((knot) => knot.at), 1]
  const gaps = places.slice(1).map((to, i) => ({ middle: (places[i]! + to) / 2, size: to - places[i]! }))
  return gaps.reduce((best, gap) => (gap.size > best.size ? gap : best)).middle
}
const add = () => edit.run({ do: 'add-knot', clip: props.clip, span: props.span, at: next.value.at })
</script>

<template>
  <p class="-mb-2 flex gap-1 pr-9 pl-13 text-[12px] text-muted" aria-hidden="true">
    <span class="flex-1 text-right">speed, %</span><span class="flex-1 text-right">place, %</span>
  </p>
  <ol class="flex flex-col gap-2" aria-label="Knots">
    <li v-for="({ knot, values: own }, index) in rows" :key="index" class="flex flex-col gap-1">
      <div class="flex items-center gap-1">
        <span class="w-4 text-muted">{{ index + 1 }}</span>
        <button
          class="btn px-1.5!"
          :aria-pressed="knot.locked ?? false"
          :aria-label="`Knot ${index + 1} keeps its speed`"
          :title="knot.locked ? 'Keeps its speed' : 'Scales until the span fits'"
          @click="change(index, { locked: !knot.locked })"
        >
          <component
            :is="knot.locked ? Lock : LockOpen"
            :size="13"
            :class="knot.locked ? 'text-brass' : ''"
          />
        </button>
        <NumberField
          v-for="value in own"
          :key="value.name"
          class="min-w-0 flex-1"
          hide-label
          step="any"
          :label="`${value.label}, %`"
          :digits="1"
          :value="value.value * 100"
          :solved="value.solved"
          @change="set(value.name, $event / 100)"
        />
        <button
          class="btn px-1.5!"
          :disabled="shape.knots.length === 1"
          :aria-label="`Remove knot ${index + 1}`"
          @click="become(shape.knots.filter((_, i) => i !== index))"
        >
          <Trash2 :size="13" />
        </button>
      </div>
      <ChoiceRow
        v-if="index < shape.knots.length - 1"
        class="ml-5 grid-cols-3"
        :label="`From knot ${index + 1} to the next`"
        :value="knot.join ?? 'soft'"
        :options="JOINS"
        @change="change(index, { join: $event })"
      />
    </li>
  </ol>
  <button class="btn" title="Or double-click the curve" @click="add">
    <Plus :size="14" />Add a knot{{ next.where }}
  </button>
</template>
