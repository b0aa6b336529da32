<script setup lang="ts">
/** The cut at hand: the last picture before it and the first after it, side by side or one over the other. */
import { computed, ref } from 'vue'
import { frameOf } from '@/api/client'
import { useClipName } from '@/composables/useClipName'
import { useEdit } from '@/stores/edit'
import { useMontage } from '@/stores/montage'
import { useView } from '@/stores/view'

const edit = useEdit()
const view = useView()
const montage = useMontage()
const nameOf = useClipName()
const over = ref(false)
const cut = computed(() => montage.cut)
const pictureOf = (clip: string, frame: number) => {
  const take = edit.takes.find((other) => other.id === edit.clipById.get(clip)?.take)
  return frameOf(take?.media.sha256 ?? '', frame)
}
const place = computed(() => {
  const n = cut.value?.n ?? 0
  const cue = edit.cueById.get(cut.value?.cue ?? '')
  return `frame ${n}, ${(n / view.outputRate).toFixed(3)} s${cue ? `, on the ${cue.kind}` : ''}`
})
const way = computed(() => {
  const { way: kind, degrees } = cut.value ?? {}
  if (kind === 'turns') return `The movement turns by ${Math.round(degrees ?? 0)}°.`
  if (kind === 'goes on') return 'The movement goes on the same way.'
  return kind === 'stands' ? 'One side stands.' : ''
})
</script>

<template>
  <section v-if="cut" class="min-w-0" aria-label="Cut">
    <div class="mb-1 flex items-center justify-between gap-2">
      <h2 class="heading truncate">Does the cut carry over?</h2>
      <label class="flex items-center gap-1.5 text-muted">
        <input v-model="over" type="checkbox" class="accent-brass" />one over the other
      </label>
    </div>
    <div :class="over ? 'relative aspect-video w-full' : 'grid grid-cols-2 gap-1.5'">
      <figure
        v-for="side in ['last before', 'first after'] as const"
        :key="side"
        class="overflow-hidden rounded bg-ground"
        :class="over ? 'absolute inset-0' : ''"
        :style="over && side === 'first after' ? { opacity: 0.5 } : {}"
      >
        <img
          class="aspect-video w-full object-contain"
          :alt="`The ${side} picture`"
          :src="side === 'last before' ? pictureOf(cut.before, cut.last) : pictureOf(cut.after, cut.first)"
        />
        <figcaption v-if="!over" class="truncate px-1 text-[12px] text-muted">
          {{ side }}: {{ nameOf(side === 'last before' ? cut.before : cut.after) }}
        </figcaption>
      </figure>
    </div>
    <p class="num mt-1 text-[12px]">
      {{ place }}. <span :class="cut.way === 'turns' ? 'text-bad' : 'text-muted'">{{ way }}</span>
    </p>
  </section>
  <p v-else class="text-muted">Where two clips meet, the pictures beside the cut are shown here.</p>
</template>
