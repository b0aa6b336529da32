<script setup lang="ts">
/** How the beat was heard, how sure that is, other ways to count, and how to set it right. */
import { computed } from 'vue'
import type { Beats } from '@/api/client'
import NumberField from '@/components/controls/NumberField.vue'
import PickList from '@/components/controls/PickList.vue'
import { wayNames } from '@/lib/relations'
import { useEdit } from '@/stores/edit'
import { useListening } from '@/stores/listening'
import { useMusic } from '@/stores/music'
import { useView } from '@/stores/view'
import BeatQuestion from './BeatQuestion.vue'

const METERS = ['2', '3', '4', '5', '6', '7'].map((value) => ({ value, text: `${value} beats a bar` }))
const SURE = { high: 0.85, some: 0.6 }

const edit = useEdit()
const music = useMusic()
const listening = useListening()
const view = useView()

const beats = computed(() => edit.cues.filter((cue) => cue.kind === 'beat' || cue.kind === 'downbeat'))
const tempo = computed(() => edit.music?.tempo ?? 0)
const heard = computed(() => music.analysis?.beats[0])
/** The other ways to count, but for those among which it is asked. */
const others = computed(() => {
  const ways = music.analysis?.beats ?? []
  const names = wayNames(ways)
  return ways.map((way, i) => ({ way, name: names[i] })).slice(Math.max(1, music.ways.length))
})
const doubts = computed(() => {
  const sure = music.analysis?.confidence
  if (!sure || !heard.value) return []
  return [
    { name: 'Tempo', value: sure.tempo ?? 0 },
    { name: 'Octave', value: sure.octave ?? 0 },
    { name: 'Phase', value: sure.phase ?? 0 },
    { name: 'Bars', value: sure.bar ?? 0 },
  ]
})
const percent = (part: number) => (part < 0.005 ? '< 1 %' : `${Math.round(part * 100)} %`)
const word = (value: number) => (value >= SURE.high ? 'sure' : value >= SURE.some ? 'likely' : 'unsure')

const selectedBeat = computed(() => {
  const cue = view.selectedCues.length === 1 ? edit.cueById.get(view.selectedCues[0]!) : undefined
  return cue && (cue.kind === 'beat' || cue.kind === 'downbeat') ? cue : undefined
})
const nearest = computed(() =>
  beats.value.reduce<(typeof beats.value)[number] | undefined>(
    (best, beat) =>
      !best || Math.abs(beat.at - view.playhead) < Math.abs(best.at - view.playhead) ? beat : best,
    undefined,
  ),
)
const anchor = computed(() => selectedBeat.value ?? nearest.value)
const setTempo = (typed: number) =>
  anchor.value && void edit.run({ do: 'set-tempo', tempo: typed, cue: anchor.value.id })
const meter = computed({
  get: () => String(edit.song?.meter ?? 4),
  set: (value) => void edit.run({ do: 'set-downbeat', meter: Number(value) }),
})
function use(other: Beats): void {
  listening.tried = null
  void edit.run({ do: 'use-beats', times: other.times, meter: other.meter, downbeat: other.downbeat })
}
const count = (how: 'double' | 'half' | 'beat-earlier' | 'beat-later' | 'off-beat') =>
  void edit.run({ do: 'count-beats', how })
</script>

<template>
  <div class="flex flex-col gap-3">
    <p v-if="!edit.song" class="text-muted">Pick the music first.</p>
    <template v-else>
      <div class="flex items-baseline justify-between">
        <h2 class="text-[15px] font-semibold">
          {{ tempo ? `${tempo.toFixed(2)} bpm` : 'No beat found' }}
        </h2>
        <span v-if="heard" class="text-muted">{{ heard.steady ? 'steady' : 'drifting' }}</span>
      </div>
      <dl v-if="doubts.length" class="grid grid-cols-[auto_1fr_auto] items-center gap-x-2 gap-y-1">
        <template v-for="doubt in doubts" :key="doubt.name">
          <dt class="text-muted">{{ doubt.name }}</dt>
          <dd class="h-1.5 overflow-hidden rounded bg-ground">
            <span
              class="block h-full"
              :class="doubt.value >= SURE.some ? 'bg-good' : 'bg-bad'"
              :style="{ width: `${doubt.value * 100}%` }"
            />
          </dd>
          <dd class="text-right">{{ word(doubt.value) }}</dd>
        </template>
      </dl>
      <BeatQuestion v-if="music.ways.length > 1" @take="use" />
      <section v-if="others.length" aria-label="Other ways to count">
        <h3 class="heading mb-1">Or is it…</h3>
        <button
          v-for="{ way, name } in others"
          :key="way.times[0]! + way.tempo"
          class="flex w-full items-baseline gap-2 rounded px-1 py-1 text-left hover:bg-raised"
          @click="use(way)"
        >
          <span class="flex-1">{{ name }}</span>
          <span class="num text-muted">{{ way.tempo.toFixed(1) }}</span>
          <span class="num w-11 text-right text-muted">{{ percent(way.likelihood) }}</span>
        </button>
        <button
          v-if="heard"
          class="mt-1 w-full rounded px-1 py-1 text-left text-muted hover:bg-raised"
          @click="use(heard)"
        >
          Back to the first reading
        </button>
      </section>
      <section v-if="beats.length" class="flex flex-col gap-2" aria-label="Set the beat right">
        <h3 class="heading">Set it right</h3>
        <PickList v-model="meter" label="Bars" :options="METERS" />
        <button
          class="btn justify-center"
          :disabled="!anchor"
          @click="edit.run({ do: 'set-downbeat', cue: anchor!.id })"
        >
          Start the bar here, {{ anchor?.at.toFixed(3) }} s
        </button>
        <div class="grid grid-cols-2 gap-1">
          <button class="btn justify-center px-1!" @click="count('double')">Double</button>
          <button class="btn justify-center px-1!" @click="count('half')">Halve</button>
          <button class="btn justify-center px-1!" @click="count('beat-earlier')">One beat earlier</button>
          <button class="btn justify-center px-1!" @click="count('beat-later')">One beat later</button>
          <button class="btn col-span-2 justify-center px-1!" @click="count('off-beat')">
            Half a beat later
          </button>
        </div>
        <NumberField
          label="Tempo, beats a minute"
          title="Counts the whole song steadily through the beat at hand; beats set by hand stay"
          :min="20"
          :max="400"
          :digits="2"
          step="any"
          :value="tempo"
          @change="setTempo"
        />
        <p class="text-[12px] text-muted">
          Drag a beat to pin it: the tempo up to the next pinned beat follows. With Alt it moves alone.
        </p>
      </section>
      <p v-else class="text-muted">
        Tap the beat along with the music: choose the kind beat, press play, then T.
      </p>
    </template>
  </div>
</template>
