<script setup lang="ts">
/** The cut at hand: the last picture before it and the first after it, side by side or one over the other. */
import { computed, ref, shallowRef, watch } from 'vue'
import { api, frameOf, take, type Schemas } from '@/api/client'
import { useClipName } from '@/composables/useClipName'
import { useEdit } from '@/stores/edit'
import { useMontage } from '@/stores/montage'
import { useNotices } from '@/stores/notices'
import { kindName } from '@/lib/terms'

const edit = useEdit()
const montage = useMontage()
const notices = useNotices()
const nameOf = useClipName()
const over = ref(false)
/** The cut at hand; while it is being moved, as it would be. */
const cut = computed(() => {
  const kept = montage.cut
  const map = edit.live?.map
  if (!kept || !map) return kept
  const [before, after] = [map.clips.indexOf(kept.before), map.clips.indexOf(kept.after)]
  const at = map.clip.findIndex((clip, index) => clip === after && map.clip[index - 1] === before)
  if (at < 1) return kept
  return { ...kept, n: map.first + at, last: map.source[at - 1]!, first: map.source[at]! }
})
const pictureOf = (clip: string, frame: number) => {
  const shown = edit.takes.find((other) => other.id === edit.clipById.get(clip)?.take)
  return frameOf(shown?.media.sha256 ?? '', frame)
}
const place = computed(() => {
  const n = cut.value?.n ?? 0
  const cue = edit.cueById.get(cut.value?.cue ?? '')
  return `frame ${n}, ${edit.clock.time(n).toFixed(3)} s${cue ? `, on the ${kindName(cue.kind)}` : ''}`
})
type Beginning = Schemas['Beginning']
/** From where the clip after the cut would go on; nothing until it is asked for. */
const found = shallowRef<Beginning[] | null>(null)
watch(
  () => [montage.cut?.n, montage.cut?.after, edit.state?.revision],
  () => (found.value = null),
)
async function seek(): Promise<void> {
  if (!cut.value || !edit.state) return
  const { before, after } = cut.value
  const asked = api.GET('/api/edits/{id}/beginnings', {
    params: { path: { id: edit.id }, query: { before, after } },
  })
  found.value = (await notices.guard(take(asked)))?.beginnings ?? null
}
const goOn = (beginning: Beginning) =>
  edit.run({ do: 'continue-cut', clip: cut.value!.after, frame: beginning.frame })
const said = ({ degrees, pace, apart }: Beginning) => [
  degrees == null || pace == null ? 'no movement' : `${Math.round(degrees)}°, ${pace.toFixed(1)}×`,
  `subject ${Math.round(apart * 100)} % away`,
]
const way = computed(() => {
  const { way: kind, degrees } = cut.value ?? {}
  if (cut.value?.softened) return 'A blink of black softens it.'
  if (kind === 'turns') return `The movement turns by ${Math.round(degrees ?? 0)}°.`
  if (kind === 'goes on') return 'The movement goes on the same way.'
  return kind === 'stands' ? 'No movement on one side.' : ''
})
</script>

<template>
  <section v-if="cut" class="min-w-0" aria-label="Cut">
    <div class="mb-1 flex items-center justify-between gap-2">
      <h2 class="heading truncate">Does the movement go on?</h2>
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
    <p class="num mt-1 text-[12px]">{{ place }}.</p>
    <div class="mt-1 flex items-center justify-between gap-2">
      <span
        class="num text-[12px]"
        :class="cut.way === 'turns' && !cut.softened ? 'text-bad' : 'text-muted'"
        >{{ way }}</span
      >
      <button class="btn shrink-0 py-0.5!" @click="seek">Find a matching cut</button>
    </div>
    <ol v-if="found" class="mt-1 grid grid-cols-4 gap-1" aria-label="Matching cuts">
      <li v-for="each in found" :key="each.frame">
        <button
          class="w-full overflow-hidden rounded bg-ground text-left hover:ring-2 hover:ring-brass"
          title="How the movement turns and how fast it goes on; how far its subject is, in picture widths"
          :aria-label="`Begin with frame ${each.frame}: ${said(each).join(', ')}`"
          @click="goOn(each)"
        >
          <img class="aspect-video w-full object-contain" alt="" :src="pictureOf(cut.after, each.frame)" />
          <span
            v-for="line in said(each)"
            :key="line"
            class="num block truncate px-1 text-[11px] leading-tight text-muted"
            >{{ line }}</span
          >
        </button>
      </li>
      <li v-if="!found.length" class="col-span-4 text-muted">Nothing in this take can begin here.</li>
    </ol>
  </section>
  <p v-else class="text-muted">Where two clips meet, the pictures beside the cut are shown here.</p>
</template>
