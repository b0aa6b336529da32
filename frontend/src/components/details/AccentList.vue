<script setup lang="ts">
/** All accents of the edit, in order: gone to, or removed. */
import { Trash2 } from '@lucide/vue'
import { computed } from 'vue'
import RowAction from '@/components/RowAction.vue'
import { kindName } from '@/lib/terms'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'

const edit = useEdit()
const view = useView()
const rows = computed(() =>
  edit.accents
    .map((accent) => ({ accent, n: edit.frameOf(accent.at), cue: edit.cueById.get(accent.at.cue ?? '') }))
    .sort((a, b) => a.n - b.n),
)

function goTo(n: number, cue?: string): void {
  view.seekFrame(n)
  if (cue) view.select({ kind: 'cues', cues: [cue] })
}
</script>

<template>
  <template v-if="rows.length">
    <h2 class="heading">Accents</h2>
    <ul class="-mt-2 flex max-h-40 flex-col overflow-y-auto" aria-label="Accents">
      <li v-for="{ accent, n, cue } in rows" :key="accent.id" class="flex items-center gap-2">
        <button
          class="num min-w-0 flex-1 truncate rounded px-1 text-left hover:bg-raised"
          @click="goTo(n, cue?.id)"
        >
          {{ edit.clock.time(n).toFixed(2) }} s, {{ accent.kind }}{{ cue ? ` on ${kindName(cue.kind)}` : '' }}
        </button>
        <RowAction
          :label="`Remove the ${accent.kind} at ${edit.clock.time(n).toFixed(2)} s`"
          @click="edit.run({ do: 'remove-accent', accent: accent.id })"
        >
          <Trash2 :size="15" />
        </RowAction>
      </li>
    </ul>
  </template>
</template>
