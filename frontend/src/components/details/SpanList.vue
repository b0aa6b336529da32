<script setup lang="ts">
/** All spans of the clip at a glance: shape, speeds, repeats. */
import { Trash2 } from '@lucide/vue'
import { computed } from 'vue'
import type { Clip, TakeFacts } from '@/api/client'
import CheckRow from '@/components/controls/CheckRow.vue'
import LevelSlider from '@/components/controls/LevelSlider.vue'
import NumberField from '@/components/controls/NumberField.vue'
import { useClipName } from '@/composables/useClipName'
import { useRecipes } from '@/composables/useRecipes'
import { percent } from '@/lib/format'
import { fromDecibels, inDecibels } from '@/lib/sounds'
import { useEdit } from '@/stores/edit'
import { useLibrary } from '@/stores/library'
import { useView } from '@/stores/view'
import FramingWork from '@/components/framing/FramingWork.vue'
import InsetWork from '@/components/framing/InsetWork.vue'
import ClipWork from './ClipWork.vue'
import PassList from './PassList.vue'
import PulseWork from './PulseWork.vue'

const props = defineProps<{ clip: Clip }>()
const edit = useEdit()
const view = useView()
const library = useLibrary()
const current = (index: number) =>
  view.selection.kind === 'span' && view.selection.clip === props.clip.id && view.selection.span === index
const facts = (index: number) => edit.derivedById.get(props.clip.id)?.spans[index]
/** Whether all of a span lies beyond where the clip was cut. */
function cutAway(index: number): boolean {
  const found = edit.derivedById.get(props.clip.id)
  const [begin, end] = [found?.pins[index], found?.pins[index + 1]]
  return !!begin && !!end && (end.n <= found!.first || begin.n >= found!.first + found!.source.length)
}
const name = useClipName()
const recipes = useRecipes()
/** The recipe that the clip was made by. */
const recipe = computed(() => recipes.all.value.find((each) => each.id === props.clip.recipe)?.name)
const byHand = computed(() => edit.derivedById.get(props.clip.id)?.changed_by_hand)
const take = computed(() => edit.takes.find((other) => other.id === props.clip.take))
/** Whether the take has a sound of its own. */
const sounds = computed(() => {
  const asset = library.takes.find((other) => other.sha256 === take.value?.media.sha256)
  return (asset?.facts as TakeFacts | undefined)?.streams?.some((stream) => stream.kind === 'sound')
})
/** How far its own sound is heard beside its picture. */
const BESIDE = [
  ['before', 'Heard before, s'],
  ['after', 'Heard after, s'],
] as const
</script>

<template>
  <section class="mt-auto border-t border-line pt-3" aria-label="Spans of the clip">
    <div class="mb-1 flex items-center justify-between">
      <h2 class="heading min-w-0 truncate" :title="name(clip.id)">{{ name(clip.id) }}</h2>
      <button
        class="btn min-h-6! shrink-0 px-2!"
        aria-label="Remove the clip"
        @click="edit.run({ do: 'remove-clip', clip: props.clip.id })"
      >
        <Trash2 :size="14" />Clip
      </button>
    </div>
    <p v-if="recipe" class="-mt-1 mb-1 truncate text-[12px] text-muted">
      Made by {{ recipe }}{{ byHand ? ', changed since' : '' }}
    </p>
    <button
      v-for="(shape, index) in clip.spans"
      :key="index"
      class="grid w-full grid-cols-[1.2rem_3.6rem_1fr_auto] items-baseline gap-1 rounded px-1.5 py-1 text-left"
      :class="current(index) ? 'bg-raised ring-1 ring-brass' : 'hover:bg-raised'"
      :aria-pressed="current(index)"
      @click="view.select({ kind: 'span', clip: clip.id, span: index })"
    >
      <span class="num text-muted"><span class="sr-only">Span </span>{{ index + 1 }}</span>
      <span class="capitalize">{{ shape.shape }}</span>
      <span v-if="cutAway(index)" class="text-[12px] text-muted">cut away</span>
      <span v-else-if="facts(index)" class="num text-[12px] text-muted">
        <template v-if="facts(index)!.way === 0">still</template>
        <template v-else-if="facts(index)!.highest - facts(index)!.lowest < 0.005">{{
          (facts(index)!.way < 0 ? '−' : '') + percent(facts(index)!.mean)
        }}</template>
        <template v-else
          >{{ facts(index)!.way < 0 ? '−' : '' }}{{ Math.round(facts(index)!.lowest * 100) }}–{{
            percent(facts(index)!.highest)
          }}</template
        >
      </span>
      <span
        v-if="facts(index) && !cutAway(index)"
        class="num text-[12px]"
        :class="facts(index)!.repeats ? 'text-bad' : 'text-good'"
      >
        {{ facts(index)!.repeats ? `${facts(index)!.repeats} rep.` : 'smooth' }}
      </span>
    </button>
    <PassList :clip="clip" />
    <PulseWork class="mt-1" :clips="[clip]" />
    <FramingWork :key="`framing ${clip.id}`" :clip="clip" />
    <InsetWork :key="`inset ${clip.id}`" :clip="clip" />
    <ClipWork :clip="clip" />
    <LevelSlider
      v-if="sounds"
      class="mt-2"
      label="Own sound"
      :value="inDecibels(clip.level ?? 0)"
      @change="edit.run({ do: 'set-level', clip: clip.id, level: fromDecibels($event) })"
    />
    <CheckRow
      v-if="sounds && clip.level"
      class="mt-1"
      :checked="clip.under"
      @change="edit.run({ do: 'set-level', clip: clip.id, under: $event })"
    >
      Also heard under other clips
    </CheckRow>
    <CheckRow
      v-if="sounds && clip.level"
      class="mt-1"
      :checked="clip.pitch_kept"
      title="From 50 to 200 % speed; outside that, the pitch follows the speed"
      @change="edit.run({ do: 'set-level', clip: clip.id, pitch_kept: $event })"
    >
      Keep pitch
    </CheckRow>
    <div v-if="sounds && clip.level" class="mt-1 grid grid-cols-2 gap-x-2">
      <NumberField
        v-for="[side, label] in BESIDE"
        :key="side"
        :label="label"
        :min="0"
        step="any"
        :digits="2"
        :value="clip[`heard_${side}`] ?? 0"
        @change="edit.run({ do: 'set-level', clip: clip.id, [side]: $event })"
      />
    </div>
  </section>
</template>
