<script setup lang="ts">
/** The song itself: where it lies, what is heard of it, listening anew, cues from and to files. */
import { computed, ref } from 'vue'
import { api, take, type CueChanges, type CueSelection } from '@/api/client'
import NumberField from '@/components/controls/NumberField.vue'
import PickList from '@/components/controls/PickList.vue'
import { useEdit } from '@/stores/edit'
import { useLibrary } from '@/stores/library'
import { useMusic } from '@/stores/music'
import { useNotices } from '@/stores/notices'
import SongLength from './SongLength.vue'

const FORMATS = [
  { ending: 'csv', text: 'CSV' },
  { ending: 'txt', text: 'Labels' },
  { ending: 'vtt', text: 'Chapters' },
  { ending: 'mid', text: 'MIDI' },
]
const edit = useEdit()
const library = useLibrary()
const music = useMusic()
const notices = useNotices()
const changes = ref<CueChanges | null>(null)
const from = ref('all')
const replace = ref(false)
const song = computed(() => edit.song)
const unheard = computed(() => music.analysis && song.value && music.analysis.heard < song.value.duration - 1)
const selections = computed(() => [
  { value: 'all', text: 'all cues' },
  ...((song.value?.selections ?? []) as CueSelection[]).map(({ id, name }) => ({ value: id, text: name })),
])

const place = (field: 'start' | 'heard_from' | 'heard_to', seconds: number) =>
  void edit.run({ do: 'place-song', [field]: seconds })

async function compare(): Promise<void> {
  const id = edit.id
  const asked = take(api.GET('/api/edits/{id}/analysis-changes', { params: { path: { id } } }))
  changes.value = (await notices.guard(asked)) ?? null
}

async function takeOver(): Promise<void> {
  if (await edit.analyseAgain()) changes.value = null
}

const total = computed(() => {
  const found = changes.value
  return found ? found.added.length + found.removed.length + found.moved.length : 0
})

function bring(event: Event): void {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (file) void edit.bringCues(file, replace.value)
  input.value = ''
}
const link = (ending: string) =>
  `/api/edits/${edit.id}/cues/${ending}${from.value === 'all' ? '' : `?selection=${from.value}`}`
</script>

<template>
  <p v-if="!song" class="text-muted">Pick the music first.</p>
  <div v-else class="flex flex-col gap-4">
    <section class="flex flex-col gap-2" aria-label="Place of the song">
      <h2 class="truncate text-[15px] font-semibold" :title="song.media.name">{{ song.media.name }}</h2>
      <NumberField
        label="Begins at, seconds of the edit"
        :value="song.start ?? 0"
        :digits="3"
        :step="0.01"
        @change="place('start', $event)"
      />
      <div class="grid grid-cols-2 gap-2">
        <NumberField
          label="Heard from"
          :value="song.heard_from ?? 0"
          :digits="3"
          :min="0"
          :step="0.01"
          @change="place('heard_from', $event)"
        />
        <NumberField
          label="to"
          :value="song.heard_to ?? song.duration"
          :digits="3"
          :min="0"
          :step="0.01"
          @change="place('heard_to', $event)"
        />
      </div>
      <p class="text-[12px] text-muted">Ties follow their cues. Another song: choose it on the shelf.</p>
    </section>
    <SongLength />
    <section class="flex flex-col gap-2" aria-label="Listen anew">
      <h3 class="heading">The automatic pass</h3>
      <p v-if="music.hearing" role="status" class="text-brass">
        Still listening: the cues of the rest join by themselves.
      </p>
      <template v-else-if="unheard">
        <p class="text-bad">Only the first {{ Math.round(music.analysis!.heard) }} s have been heard.</p>
        <button class="btn justify-center" @click="library.hearAll(song.media.sha256!)">
          Hear all of it
        </button>
      </template>
      <button class="btn justify-center" @click="compare">Compare with a new analysis</button>
      <template v-if="changes">
        <p role="status">
          {{
            total
              ? `${changes.added.length} added, ${changes.removed.length} removed, ${changes.moved.length} moved; ${changes.kept} stay.`
              : 'Nothing: all cues are as they were heard, or set by hand.'
          }}
        </p>
        <button v-if="total" class="btn btn-main justify-center" @click="takeOver">Take it over</button>
      </template>
    </section>
    <section class="flex flex-col gap-2" aria-label="Cues as files">
      <h3 class="heading">Cues as files</h3>
      <PickList v-model="from" label="Write" :options="selections" up />
      <div class="flex gap-1">
        <a
          v-for="format in FORMATS"
          :key="format.ending"
          class="btn flex-auto justify-center px-1! text-[12px]"
          :href="link(format.ending)"
          download
        >
          {{ format.text }}
        </a>
      </div>
      <label class="btn cursor-pointer justify-center focus-within:outline-2 focus-within:outline-brass">
        Read cues from a file
        <input class="sr-only" type="file" accept=".csv,.txt,.tsv,.vtt,.mid,.midi" @change="bring" />
      </label>
      <label class="flex items-center gap-2"
        ><input v-model="replace" type="checkbox" /> replacing cues of the same kinds</label
      >
    </section>
  </div>
</template>
