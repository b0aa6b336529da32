<script setup lang="ts">
/** What is proposed in the take at hand: the strongest first, of the kinds that are looked for, page by page. */
import { Check, X } from '@lucide/vue'
import { computed, ref, watch } from 'vue'
import type { useMeasures } from '@/composables/useMeasures'
import type { TakeWork } from '@/composables/useTakeWork'
import NumberSlider from '@/components/controls/NumberSlider.vue'
import { useView } from '@/stores/view'

const props = defineProps<{ seen: ReturnType<typeof useMeasures>; work: TakeWork }>()
const MOST = 30
const view = useView()
/** The strongest first. */
const proposals = computed(() => [...props.seen.proposals.value].sort((a, b) => b.weight - a.weight))
const first = ref(0)
const shown = computed(() => proposals.value.slice(first.value, first.value + MOST))
const left = computed(() => Math.max(0, proposals.value.length - first.value - MOST))
const begin = (index: number) => (first.value = Math.max(0, Math.min(index, proposals.value.length - MOST)))

/** Shows the page on which the proposal at hand is. */
function follow(): void {
  const here = proposals.value.findIndex((each) => each.frame === view.takeFrame)
  if (here >= 0 && (here < first.value || here >= first.value + MOST)) begin(here - MOST / 3)
  else begin(first.value)
}
watch([proposals, () => view.takeFrame], follow, { immediate: true })
</script>

<template>
  <section aria-label="Proposals">
    <h3 class="heading">Proposals</h3>
    <div
      v-if="seen.kinds.value.length > 1"
      class="mt-1 flex flex-wrap gap-1"
      role="group"
      aria-label="Kinds of proposals"
    >
      <button
        v-for="[kind, count] in seen.kinds.value"
        :key="kind"
        class="min-h-6 rounded-full border px-2 text-[12px]"
        :class="seen.unsought.value.includes(kind) ? 'border-line text-muted line-through' : 'border-muted'"
        :aria-pressed="!seen.unsought.value.includes(kind)"
        :title="seen.unsought.value.includes(kind) ? 'Look for these too' : 'Leave these out'"
        @click="seen.toggle(kind)"
      >
        {{ kind }} <span class="num">{{ count }}</span>
      </button>
    </div>
    <NumberSlider
      class="mt-1"
      label="At least as strong as"
      unit="%"
      :scale="100"
      :min="0"
      :max="1"
      :step="0.05"
      :value="seen.least.value"
      @input="seen.showFrom($event)"
      @change="seen.showFrom($event)"
    />
    <p v-if="seen.weaker.value" class="text-[12px] text-muted">{{ seen.weaker.value }} weaker, not shown</p>
    <button v-if="first" class="mt-1 block min-h-6 text-muted underline" @click="begin(first - MOST)">
      {{ first }} stronger
    </button>
    <div
      v-for="each in shown"
      :key="`${each.kind} ${each.frame}`"
      class="mt-1 rounded-md bg-raised"
      :class="each.frame === view.takeFrame ? 'ring-1 ring-brass' : ''"
    >
      <div class="flex items-center gap-1 pr-1">
        <button
          class="flex min-w-0 flex-1 items-center gap-2 px-2.5 py-1 text-left"
          @click="view.lookAt(each.frame)"
        >
          <span class="flex-1 font-semibold">{{ each.kind }}</span>
          <span class="num text-[12px] text-muted">{{ Math.round(each.weight * 100) }} %</span>
          <span class="num text-[12px] text-muted">{{ each.frame }}</span>
        </button>
        <button
          class="btn min-h-6! px-1!"
          :aria-label="`Keep the ${each.kind} at frame ${each.frame}`"
          title="Keep it as a moment (Enter)"
          @click="work.accept(each)"
        >
          <Check :size="13" />
        </button>
        <button
          class="btn min-h-6! px-1!"
          :aria-label="`Drop the ${each.kind} at frame ${each.frame}`"
          title="Not here (Delete)"
          @click="work.dismiss(each)"
        >
          <X :size="13" />
        </button>
      </div>
      <p class="px-2.5 pb-1.5 text-[12px] leading-tight text-muted">{{ each.why }}</p>
    </div>
    <button v-if="left" class="mt-1 block min-h-6 text-muted underline" @click="begin(first + MOST)">
      {{ left }} more
    </button>
    <p v-if="!proposals.length" class="mt-1 text-muted">Nothing more to look at.</p>
  </section>
</template>
