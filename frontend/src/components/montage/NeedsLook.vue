<script setup lang="ts">
/** What needs a look, cause by cause, with what mends each cause at once; the worst first. */
import { ChevronRight } from '@lucide/vue'
import { computed, ref } from 'vue'
import { useClipName } from '@/composables/useClipName'
import { useEdit } from '@/stores/edit'
import { useMontage } from '@/stores/montage'

/** Lines that stand at once, before "more". */
const MOST = 10
const edit = useEdit()
const montage = useMontage()
const nameOf = useClipName()
const open = ref('')
const all = ref(false)

type Group = (typeof montage.groups)[number]
const keyOf = ({ kind, cause }: Group) => `${kind} ${cause}`
const groups = computed(() => (all.value ? montage.groups : montage.groups.slice(0, MOST)))
const inside = (group: Group) => (all.value ? group.troubles : group.troubles.slice(0, MOST))
const more = computed(() => {
  if (all.value) return 0
  const opened = montage.groups.find((group) => keyOf(group) === open.value)
  return Math.max(0, montage.groups.length - MOST) + Math.max(0, (opened?.troubles.length ?? 0) - MOST)
})
function toggle(group: Group): void {
  open.value = open.value === keyOf(group) ? '' : keyOf(group)
  all.value = false
}
</script>

<template>
  <div>
    <h3 class="heading">Needs a look: {{ montage.troubles.length || 'nothing' }}</h3>
    <ul class="mt-1 flex flex-col gap-1" aria-label="Needs a look">
      <li v-for="group in groups" :key="keyOf(group)">
        <button
          class="flex w-full items-start gap-1 rounded px-1 py-0.5 text-left hover:bg-raised"
          :aria-expanded="open === keyOf(group)"
          @click="toggle(group)"
        >
          <ChevronRight
            :size="14"
            class="mt-0.5 shrink-0 text-muted"
            :class="open === keyOf(group) ? 'rotate-90' : ''"
          />
          <span class="min-w-0 flex-1">
            <span class="font-semibold" :class="group.kind === 'even cadence' ? 'text-muted' : 'text-bad'">{{
              group.kind
            }}</span>
            <span class="num float-right text-[12px] text-muted">× {{ group.troubles.length }}</span>
            <span class="block text-[12px] text-muted">{{ group.cause }}</span>
          </span>
        </button>
        <div class="flex flex-wrap gap-1 pl-5">
          <button
            v-for="mend in group.mends"
            :key="mend.label"
            class="btn min-h-6! px-2! py-0!"
            @click="edit.runAll(mend.commands)"
          >
            {{ mend.label }}
          </button>
        </div>
        <ul v-if="open === keyOf(group)" class="mt-1 pl-4" :aria-label="group.cause">
          <li v-for="each in inside(group)" :key="`${each.n} ${each.clip}`">
            <button
              class="w-full truncate rounded px-1 py-0.5 text-left text-[12px] hover:bg-raised"
              @click="montage.seekCut(each.n)"
            >
              <span class="num float-right pl-1 text-muted">{{ edit.clock.time(each.n).toFixed(2) }} s</span>
              {{ each.clip ? `${nameOf(each.clip)}: ` : '' }}{{ each.what }}
            </button>
          </li>
        </ul>
      </li>
    </ul>
    <button v-if="more" class="btn mt-1 w-full justify-center" @click="all = true">{{ more }} more</button>
  </div>
</template>
