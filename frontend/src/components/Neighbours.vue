<script setup lang="ts">
/** The frame at hand between its neighbours, to find the first frame of a hit. */
import { useDebounceFn } from '@vueuse/core'
import { inject, ref, watch } from 'vue'
import { PLAYBACK } from '@/composables/keys'
import { frameOf } from '@/api/client'
import { useMarking } from '@/composables/useMarking'
import { momentName } from '@/lib/names'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'

const playback = inject(PLAYBACK)!
const OFFSETS = [-2, -1, 0, 1, 2]
const edit = useEdit()
const view = useView()
const { marked, mark } = useMarking()
const inTake = (frame: number) => frame >= 0 && frame < (view.take?.frames ?? 0)

/** The frame that is compared: nobody compares while it plays or while a tie is on its way to another cue. */
const compared = ref(view.takeFrame)
const RESTS_MS = 120
const rest = useDebounceFn(() => (compared.value = view.takeFrame), RESTS_MS)
watch(
  () => [view.takeFrame, playback.stats.playing] as const,
  ([frame, playing]) => {
    if (playing) return
    if (edit.live && view.looking === 'edit') void rest()
    else compared.value = frame
  },
)
const address = (offset: number) => frameOf(view.take?.media.sha256 ?? '', compared.value + offset)
</script>

<template>
  <section class="min-w-0" aria-label="Frame neighbours">
    <div class="mb-1 flex items-center justify-between gap-2">
      <h2 class="heading truncate">Is this the first frame of the hit?</h2>
      <span v-if="marked" class="truncate font-semibold text-brass">{{ momentName(marked) }}</span>
    </div>
    <div class="grid grid-cols-5 gap-1.5">
      <button
        v-for="offset in OFFSETS"
        :key="offset"
        class="rounded bg-panel p-0.5"
        :class="offset === 0 ? 'ring-2 ring-brass' : ''"
        :disabled="!view.take || !inTake(compared + offset)"
        :aria-label="
          offset === 0 ? `Frame ${compared}` : `${Math.abs(offset)} ${offset < 0 ? 'before' : 'after'}`
        "
        @click="view.lookAt(compared + offset)"
      >
        <span class="block aspect-video w-full overflow-hidden rounded-sm bg-ground">
          <img
            v-if="view.take && inTake(compared + offset)"
            class="h-full w-full object-contain"
            alt=""
            decoding="sync"
            :src="address(offset)"
          />
        </span>
        <span class="num block text-[12px]" :class="offset === 0 ? 'font-bold text-brass' : 'text-muted'">
          {{ offset === 0 ? (view.take ? compared : '–') : offset > 0 ? `+${offset}` : `−${-offset}` }}
        </span>
      </button>
    </div>
    <div class="mt-1.5 flex flex-wrap items-center gap-1.5" role="group" aria-label="Mark this frame">
      <span class="text-muted">Mark as</span>
      <button
        v-for="kind in ['impact', 'start', 'end', 'action'] as const"
        :key="kind"
        class="btn min-h-6! px-2! py-0.5!"
        :class="marked?.kind === kind ? 'text-brass!' : ''"
        :disabled="!view.take"
        :title="kind === 'impact' ? 'The first frame of the hit (H)' : undefined"
        @click="mark(kind)"
      >
        {{ kind }}
      </button>
    </div>
  </section>
</template>
