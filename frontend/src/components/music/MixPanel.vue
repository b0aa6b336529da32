<script setup lang="ts">
/** How loud everything is: the song and its course, the clips' own sound, what is laid, the loudness of all. */
import { X } from '@lucide/vue'
import { computed } from 'vue'
import CheckRow from '@/components/controls/CheckRow.vue'
import LevelSlider from '@/components/controls/LevelSlider.vue'
import NumberField from '@/components/controls/NumberField.vue'
import SoundList from '@/components/details/SoundList.vue'
import RowAction from '@/components/RowAction.vue'
import { inDecibels, QUIETEST_DB } from '@/lib/sounds'
import { kindName } from '@/lib/terms'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'
import LoudnessMeter from './LoudnessMeter.vue'

const edit = useEdit()
const view = useView()
const song = computed(() => edit.song)
type Key = NonNullable<NonNullable<typeof song.value>['levels']>[number]

/** A level is set on the cue that lands on the frame looked at, or on that frame. */
const here = computed(() => {
  const cue = edit.cues.find(({ frame }) => frame === view.frame)
  return cue ? { cue: cue.id } : { n: view.frame }
})
const instant = ({ at }: Key) => (at.cue ? (edit.cueById.get(at.cue)?.at ?? 0) : edit.clock.time(at.n ?? 0))
const keys = computed(() => [...(song.value?.levels ?? [])].sort((a, b) => instant(a) - instant(b)))
const standsOn = (key: Key) => {
  const cue = edit.cueById.get(key.at.cue ?? '')
  return cue ? `${kindName(cue.kind)} ${cue.at.toFixed(2)} s` : `frame ${key.at.n}`
}
const FADES = [
  ['fade_in', 'Fade in, s'],
  ['fade_out', 'Fade out, s'],
] as const
</script>

<template>
  <p v-if="!song" class="text-muted">Pick the music first.</p>
  <div v-else class="flex flex-col gap-4">
    <section class="flex flex-col gap-2" aria-label="Level of the song">
      <h3 class="heading">The song</h3>
      <LevelSlider
        label="Level"
        :value="inDecibels(song.level ?? 1)"
        @change="edit.run({ do: 'fade-song', level: $event })"
      />
      <div class="grid grid-cols-2 gap-2">
        <NumberField
          v-for="[name, label] in FADES"
          :key="name"
          :label="label"
          :min="0"
          :max="60"
          step="any"
          :digits="2"
          :value="song[name] ?? 0"
          @change="edit.run({ do: 'fade-song', [name]: $event })"
        />
      </div>
      <ul v-if="keys.length" class="flex flex-col gap-0.5" aria-label="Levels on the way">
        <li v-for="key in keys" :key="key.id" class="grid grid-cols-[1fr_74px_auto_auto] items-center gap-1">
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
          <span class="text-muted">dB</span>
          <RowAction
            :label="`Remove the level on ${standsOn(key)}`"
            @click="edit.run({ do: 'remove-level-key', key: key.id })"
          >
            <X :size="14" aria-hidden="true" />
          </RowAction>
        </li>
      </ul>
      <button class="btn justify-center" @click="edit.run({ do: 'set-level-key', ...here, level: 0 })">
        Set a level here
      </button>
    </section>
    <section class="flex flex-col gap-2" aria-label="The clips' own sound">
      <h3 class="heading">The clips’ own sound</h3>
      <CheckRow :checked="edit.edit?.muted" @change="edit.run({ do: 'mute-clips', muted: $event })">
        Mute all
      </CheckRow>
    </section>
    <SoundList />
    <p v-if="!edit.sounds.length" class="text-[12px] text-muted">
      Choose a cue, a tie or a cut to lay a sound on it: boom, whoosh, riser, or a file of the shelf.
    </p>
    <LoudnessMeter />
  </div>
</template>
