<script setup lang="ts">
/** What can be done at the cut at hand, or at all cuts between chosen clips. */
import { computed, ref } from 'vue'
import type { Length } from '@/api/client'
import LengthField from '@/components/controls/LengthField.vue'
import NumberField from '@/components/controls/NumberField.vue'
import { useEdit } from '@/stores/edit'
import { useMontage } from '@/stores/montage'

const edit = useEdit()
const montage = useMontage()
const run = ref<Length>({ count: 20, unit: 'frames' })
const speed = ref(3)
const dark = ref(4)

const cuts = computed(() => {
  const between = montage.cuts.filter(
    (cut) => montage.chosen.includes(cut.before) && montage.chosen.includes(cut.after),
  )
  return between.length ? between : montage.cut ? [montage.cut] : []
})
const through = (side: 'both' | 'out' | 'in') =>
  edit.run({
    do: 'run-through',
    cuts: cuts.value.map((cut) => [cut.before, cut.after] as [string, string]),
    length: run.value,
    speed: speed.value,
    side,
  })
/** Black up to the cut, which goes on following its cue, or from it on. */
async function black(side: 'before' | 'after'): Promise<void> {
  for (const { n, cue } of cuts.value) {
    const on = cue ?? n
    const [since, until] = side === 'before' ? [Math.max(0, n - dark.value), on] : [on, n + dark.value]
    if (!(await edit.run({ do: 'add-black', since, until }))) return
  }
}
</script>

<template>
  <details v-if="cuts.length" open>
    <summary class="heading cursor-pointer">
      {{ cuts.length > 1 ? `${cuts.length} cuts` : 'The cut' }}
    </summary>
    <div class="mt-1 grid grid-cols-2 gap-x-2 gap-y-1">
      <LengthField
        label="Run fast for"
        class="col-span-2"
        :typed="run"
        :units="['frames', 'seconds', 'beats']"
        @change="run = $event"
      />
      <NumberField
        label="Speed, %"
        class="col-span-2"
        :min="1"
        :value="speed * 100"
        @change="speed = $event / 100"
      />
      <button class="btn justify-center" @click="through('out')">Into it</button>
      <button class="btn justify-center" @click="through('both')">Run through</button>
      <NumberField
        label="Black, frames"
        class="col-span-2 mt-1"
        :min="1"
        :value="dark"
        @change="dark = Math.max(1, Math.round($event))"
      />
      <button class="btn justify-center" @click="black('before')">Before it</button>
      <button class="btn justify-center" @click="black('after')">After it</button>
    </div>
  </details>
</template>
