<script setup lang="ts">
/** A recipe's name and stretches, to be changed; clips made by it stay as they are until it is applied again. */
import { Trash2 } from '@lucide/vue'
import { ref, watch } from 'vue'
import type { Recipe } from '@/api/client'
import NumberField from '@/components/controls/NumberField.vue'
import PickList from '@/components/controls/PickList.vue'
import DialogFrame from '@/components/DialogFrame.vue'
import RowAction from '@/components/RowAction.vue'
import { counted } from '@/lib/format'
import { accentName, sideSaid } from '@/lib/accents'
import { amountSaid, patternName } from '@/lib/pulses'
import { useEdit } from '@/stores/edit'

type Leg = NonNullable<Recipe['before']>[number]

const props = defineProps<{ recipe: Recipe | null }>()
const emit = defineEmits<{ close: [] }>()
const edit = useEdit()
const UNITS = ['frames', 'seconds', 'beats'].map((value) => ({ value, text: value }))
const OF = [
  { value: 'real-time', text: 'of real time' },
  { value: 'floor', text: 'of the smooth floor' },
]
const SIDES = [
  ['before', 'Before the moment, outward'],
  ['after', 'After the moment'],
] as const
const draft = ref<Recipe | null>(null)
watch(
  () => props.recipe,
  (recipe) => (draft.value = recipe && (JSON.parse(JSON.stringify(recipe)) as Recipe)),
)

const made = () => edit.clips.filter((clip) => clip.recipe === props.recipe?.id).length
const speedOf = ({ shape }: Leg) => ('speed' in shape ? shape.speed : null)
function setSpeed({ shape }: Leg, percent: number): void {
  if ('speed' in shape) shape.speed = percent / 100
}

async function keep(): Promise<void> {
  if (!draft.value) return
  if (await edit.run({ do: 'keep-recipe', recipe: draft.value })) emit('close')
}
</script>

<template>
  <DialogFrame :open="!!recipe" :title="`Change ${recipe?.name ?? ''}`" :width="560" @close="$emit('close')">
    <form v-if="draft" class="mt-3 flex min-h-0 flex-col gap-3 overflow-y-auto" @submit.prevent="keep">
      <label>
        <span class="text-muted">Name</span>
        <input v-model.trim="draft.name" class="field" maxlength="60" required />
      </label>
      <section v-for="[side, title] in SIDES" :key="side" :aria-label="title">
        <h3 class="heading mb-1">{{ title }}</h3>
        <p v-if="!draft[side]?.length" class="text-muted">Nothing.</p>
        <div
          v-for="(leg, index) in draft[side] ?? []"
          :key="index"
          class="mb-1 grid grid-cols-[4.5rem_1fr_6.5rem_1fr_9.5rem] items-end gap-2"
        >
          <span class="pb-1.5 font-semibold capitalize">{{ leg.shape.shape }}</span>
          <NumberField
            v-if="leg.length != null"
            :label="`Length ${index + 1}`"
            :min="0.01"
            step="any"
            :digits="leg.unit === 'frames' ? 0 : 2"
            :value="leg.length"
            @change="$event > 0 && (leg.length = $event)"
          />
          <span v-else class="col-span-2 pb-1.5 text-muted">as far as the take goes</span>
          <PickList
            v-if="leg.length != null"
            :model-value="leg.unit ?? 'seconds'"
            :label="`Unit ${index + 1}`"
            hide-label
            :options="UNITS"
            @update:model-value="leg.unit = $event as Leg['unit']"
          />
          <template v-if="speedOf(leg) != null">
            <NumberField
              :label="`Speed ${index + 1}, %`"
              :min="1"
              :value="speedOf(leg)! * 100"
              @change="setSpeed(leg, $event)"
            />
            <PickList
              :model-value="leg.of ?? 'real-time'"
              :label="`Speed ${index + 1} is`"
              hide-label
              :options="OF"
              @update:model-value="leg.of = $event as Leg['of']"
            />
          </template>
        </div>
      </section>
      <section v-if="draft.pulses?.length" aria-label="Pulses">
        <h3 class="heading mb-1">Pulses</h3>
        <div v-for="(pulse, index) in draft.pulses" :key="index" class="flex items-center gap-2">
          <span class="font-semibold">{{ patternName(pulse.pattern ?? 'step') }}</span>
          <span class="num flex-1 text-[12px] text-muted">
            {{ [amountSaid(pulse), `on every ${pulse.kinds.join(', ')}`].filter(Boolean).join(', ') }}
          </span>
          <RowAction
            :label="`Remove: ${patternName(pulse.pattern ?? 'step')}`"
            @click="draft.pulses!.splice(index, 1)"
          >
            <Trash2 :size="15" />
          </RowAction>
        </div>
      </section>
      <section v-if="draft.accents?.length" aria-label="Accents">
        <h3 class="heading mb-1">Accents</h3>
        <div v-for="(accent, index) in draft.accents" :key="index" class="flex items-center gap-2">
          <span class="font-semibold">{{ accentName(accent.what.kind) }}</span>
          <span class="min-w-0 flex-1 truncate text-muted">{{ sideSaid(accent.side) }}</span>
          <RowAction
            :label="`Remove: ${accentName(accent.what.kind)}`"
            @click="draft.accents!.splice(index, 1)"
          >
            <Trash2 :size="15" />
          </RowAction>
        </div>
      </section>
      <div class="flex items-center gap-2">
        <p class="flex-1 text-muted">
          {{ made() ? `${counted(made(), 'clip')} made by it: apply it again to change them.` : '' }}
        </p>
        <button class="btn" type="button" @click="$emit('close')">Cancel</button>
        <button class="btn btn-main" type="submit">Keep</button>
      </div>
    </form>
  </DialogFrame>
</template>
