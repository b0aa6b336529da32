<script setup lang="ts">
/** How loud everything is: the song and its course, the clips' own sound, what is laid, the loudness of all. */
import { computed } from 'vue'
import CheckRow from '@/components/controls/CheckRow.vue'
import LevelSlider from '@/components/controls/LevelSlider.vue'
import NumberField from '@/components/controls/NumberField.vue'
import SoundList from '@/components/details/SoundList.vue'
import { inDecibels } from '@/lib/sounds'
import { useEdit } from '@/stores/edit'
import LevelKeys from './LevelKeys.vue'
import LoudnessMeter from './LoudnessMeter.vue'

const edit = useEdit()
const song = computed(() => edit.song)
const FADES = [
  ['fade_in', 'Fade in, s'],
  ['fade_out', 'Fade out, s'],
  ['ring_out', 'Ring out, s'],
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
      <div class="grid grid-cols-3 gap-2">
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
      <LevelKeys of="song" :keys="song.levels ?? []" />
    </section>
    <section class="flex flex-col gap-2" aria-label="The clips' own sound">
      <h3 class="heading">The clips’ own sound</h3>
      <CheckRow :checked="edit.edit?.muted" @change="edit.run({ do: 'mute-clips', muted: $event })">
        Mute all
      </CheckRow>
      <LevelKeys v-if="!edit.edit?.muted" of="own" :keys="edit.edit?.own_levels ?? []" />
    </section>
    <SoundList />
    <p v-if="!edit.sounds.length" class="text-[12px] text-muted">
      Choose a cue, a tie or a cut to lay a sound on it: boom, whoosh, riser, or a file of the shelf.
    </p>
    <LoudnessMeter />
  </div>
</template>
