<script setup lang="ts">
/** How loud all of it is: measured once for a mix, then shown at the playhead. */
import { computed, ref, shallowRef } from 'vue'
import { api, take, type Schemas } from '@/api/client'
import { withMinus } from '@/lib/format'
import { useEdit } from '@/stores/edit'
import { useNotices } from '@/stores/notices'
import { useView } from '@/stores/view'

/** What the scale shows, LUFS. */
const [QUIET, LOUD] = [-40, 0]
const A_SECOND = 10
/** A block of 400 ms is as loud at its end. */
const BLOCK_SECONDS = 0.4
const edit = useEdit()
const view = useView()
const notices = useNotices()
const measuring = ref(false)
const found = shallowRef<(Schemas['MixLoudness'] & { key: string }) | null>(null)
const current = computed(() => (found.value?.key === edit.state?.mix.key ? found.value : null))

async function measure(): Promise<void> {
  const state = edit.state
  if (!state) return
  measuring.value = true
  const params = { path: { id: edit.id }, query: { revision: state.revision } }
  const loudness = await notices.guard(take(api.GET('/api/edits/{id}/loudness', { params })))
  measuring.value = false
  if (loudness) found.value = { ...loudness, key: state.mix.key }
}

const now = computed(() => {
  const { momentary, begin } = current.value ?? { momentary: [], begin: 0 }
  return momentary[Math.round((view.playhead - begin - BLOCK_SECONDS) * A_SECOND)] ?? null
})
const part = (level: number | null) =>
  level === null ? 0 : Math.max(0, Math.min(1, (level - QUIET) / (LOUD - QUIET)))
const said = (level: number | null | undefined) => (level == null ? '–' : withMinus(level.toFixed(1)))
const path = computed(() => {
  const levels = current.value?.momentary ?? []
  return levels.map((level, i) => `${i ? 'L' : 'M'}${i},${(1 - part(level)).toFixed(3)}`).join('')
})
</script>

<template>
  <section class="flex flex-col gap-2" aria-label="Loudness">
    <h3 class="heading">Loudness</h3>
    <template v-if="current">
      <div
        class="relative h-3 overflow-hidden rounded-sm bg-ground"
        role="meter"
        aria-label="Momentary loudness, LUFS"
        :aria-valuemin="QUIET"
        :aria-valuemax="LOUD"
        :aria-valuenow="now ?? QUIET"
      >
        <span class="absolute inset-y-0 left-0 bg-brass" :style="{ width: `${100 * part(now)}%` }" />
        <span class="absolute inset-y-0 w-px bg-text" :style="{ left: `${100 * part(-14)}%` }" />
      </div>
      <svg
        class="h-12 w-full rounded-sm bg-ground"
        :viewBox="`0 0 ${Math.max(1, current.momentary.length - 1)} 1`"
        preserveAspectRatio="none"
        aria-hidden="true"
      >
        <path
          :d="path"
          class="fill-none stroke-brass"
          stroke-width="1.2"
          vector-effect="non-scaling-stroke"
        />
      </svg>
      <dl class="num grid grid-cols-[1fr_auto] gap-x-3 [&>dd]:text-right">
        <dt class="text-muted">Now</dt>
        <dd>{{ said(now) }} LUFS</dd>
        <dt class="text-muted">Loudest 0.4 s</dt>
        <dd>{{ said(current.loudest) }} LUFS</dd>
        <dt class="text-muted">All of it</dt>
        <dd>{{ said(current.integrated) }} LUFS</dd>
        <dt class="text-muted">True peak</dt>
        <dd>{{ said(current.true_peak) }} dBTP</dd>
      </dl>
    </template>
    <button v-else class="btn justify-center" :disabled="measuring" @click="measure">
      {{ measuring ? 'Measuring…' : found ? 'Measure again' : 'Measure the mix' }}
    </button>
  </section>
</template>
