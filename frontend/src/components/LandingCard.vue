<script setup lang="ts">
/** The landing at hand: the selected tie's, else the one nearest to the playhead. */
import { computed } from 'vue'
import { useClipName } from '@/composables/useClipName'
import { percent, signedMs } from '@/lib/format'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'
import { kindName } from '@/lib/terms'

const edit = useEdit()
const clipName = useClipName()
const view = useView()
const landing = computed(() => {
  const mine = view.derivedClip?.landings ?? []
  const selection = view.selection
  const selected = selection.kind === 'pin' ? mine.find((other) => other.pin === selection.pin) : undefined
  const distance = (n: number) => Math.abs(n - view.frame)
  return selected ?? [...mine].sort((a, b) => distance(a.wanted_frame) - distance(b.wanted_frame))[0]
})
/** Whether all that is tied here has lost its cue. */
const loose = computed(() => edit.derived?.loose.some((tie) => tie.clip === view.clip?.id))
</script>

<template>
  <section v-if="landing" class="rounded-lg bg-panel p-3" aria-label="Landing">
    <h2 class="truncate text-[15px] font-semibold">
      {{ landing.label }} on {{ kindName(landing.cue_kind) }}
    </h2>
    <dl class="num mt-1 grid grid-cols-[auto_1fr_auto_1fr] gap-x-3 gap-y-0.5 text-[12px]">
      <dt class="text-muted">Cue</dt>
      <dd class="text-right font-semibold">{{ landing.cue_time.toFixed(3) }} s</dd>
      <dt class="text-muted">In</dt>
      <dd class="text-right font-semibold">{{ percent(landing.speed_in) }}</dd>
      <dt class="text-muted">Lands</dt>
      <dd class="text-right font-semibold">{{ landing.timecode }}</dd>
      <dt class="text-muted">Out</dt>
      <dd class="text-right font-semibold">{{ percent(landing.speed_out) }}</dd>
      <dt class="text-muted">Off by</dt>
      <dd class="text-right font-semibold">{{ signedMs(landing.residual_ms) }}</dd>
      <dt class="text-muted">Repeats</dt>
      <dd class="text-right font-semibold">{{ landing.repeats_around || 'none' }}</dd>
    </dl>
    <p class="mt-1 text-[12px]" :class="landing.exact ? 'text-good' : 'text-bad'">
      {{
        landing.exact
          ? `First seen on frame ${landing.wanted_frame}, not before.`
          : landing.hidden_by
            ? `Hidden by ${clipName(landing.hidden_by)}, which lies over it.`
            : `First seen on frame ${landing.landed_frame ?? '–'} instead of ${landing.wanted_frame}.`
      }}
    </p>
  </section>
  <section v-else-if="loose" class="rounded-lg bg-panel p-3 text-muted" aria-label="Landing">
    <h2 class="font-semibold text-bad">All ties are loose</h2>
    <p class="mt-1">
      Their cues are gone, so their moments stay where they were. Pull a brass knob to a cue, or press
      <kbd class="num">Esc</kbd> on the clip desk for the cues nearby.
    </p>
  </section>
  <section v-else class="rounded-lg bg-panel p-3 text-muted" aria-label="Landing">
    <h2 class="font-semibold text-text">No tie yet</h2>
    <p class="mt-1">
      Step to the first frame of the hit with <kbd class="num">[</kbd> and <kbd class="num">]</kbd>, mark it
      as impact, then pull its brass knob down to a cue.
    </p>
  </section>
</template>
