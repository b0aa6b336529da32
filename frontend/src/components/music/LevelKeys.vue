<script setup lang="ts">
/** Levels on the way, of the song or of the clips' own sound: each on a cue or a frame. */
import { X } from '@lucide/vue'
import { computed } from 'vue'
import type { Edit } from '@/api/client'
import NumberField from '@/components/controls/NumberField.vue'
import PickList from '@/components/controls/PickList.vue'
import RowAction from '@/components/RowAction.vue'
import { EASINGS } from '@/lib/pulses'
import { QUIETEST_DB } from '@/lib/sounds'
import { kindName } from '@/lib/terms'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'

type Key = NonNullable<Edit['own_levels']>[number]

const props = defineProps<{ of: 'song' | 'own'; keys: readonly Key[] }>()
const edit = useEdit()
const view = useView()

/** A level is set on the cue that lands on the frame looked at, or on that frame. */
function add(): void {
  const here = edit.placeOn(view.frame)
  const at = typeof here === 'string' ? { cue: here } : { n: here }
  void edit.run({ do: 'set-level-key', of: props.of, ...at, level: 0 })
}
const instant = ({ at }: Key) => (at.cue ? (edit.cueById.get(at.cue)?.at ?? 0) : edit.clock.time(at.n ?? 0))
const inOrder = computed(() => [...props.keys].sort((a, b) => instant(a) - instant(b)))
const standsOn = (key: Key) => {
  const cue = edit.cueById.get(key.at.cue ?? '')
  return cue ? `${kindName(cue.kind)} ${cue.at.toFixed(2)} s` : `frame ${key.at.n}`
}
</script>

<template>
  <ul v-if="keys.length" class="flex flex-col gap-0.5" aria-label="Levels on the way">
    <li v-for="key in inOrder" :key="key.id" class="grid grid-cols-[1fr_74px_auto_auto] items-center gap-1">
      <button class="num truncate text-left" @click="view.seek(instant(key))">{{ standsOn(key) }}</button>
      <NumberField
        :label="`Level on ${standsOn(key)}, dB`"
        hide-label
        step="any"
        :digits="1"
        :min="QUIETEST_DB"
        :max="24"
        :value="key.level ?? 0"
        @change="edit.run({ do: 'set-level-key', key: key.id, level: $event })"
      />
      <PickList
        v-if="key !== inOrder[0]"
        class="col-span-4 col-start-1 row-start-2 mb-1"
        :label="`Curve into ${standsOn(key)}`"
        hide-label
        :model-value="key.ease ?? 'straight'"
        :options="EASINGS"
        @update:model-value="edit.run({ do: 'set-level-key', key: key.id, ease: $event })"
      />
      <span class="text-muted">dB</span>
      <RowAction
        :label="`Remove the level on ${standsOn(key)}`"
        @click="edit.run({ do: 'remove-level-key', key: key.id })"
      >
        <X :size="14" aria-hidden="true" />
      </RowAction>
    </li>
  </ul>
  <button class="btn justify-center" @click="add">Set a level here</button>
</template>
