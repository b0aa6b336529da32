<script setup lang="ts">
/** The song itself: where it lies, what is heard of it, listening anew, cues from and to files. */
import { computed, ref } from 'vue'
import { api, Failure, take, type CueChanges, type CueSelection } from '@/api/client'
import PickList from '@/components/controls/PickList.vue'
import { useEdit } from '@/stores/edit'
import { useNotices } from '@/stores/notices'

const FORMATS = [
  { ending: 'csv', text: 'CSV' },
  { ending: 'txt', text: 'Labels' },
  { ending: 'vtt', text: 'Chapters' },
  { ending: 'mid', text: 'MIDI' },
]
const edit = useEdit()
const notices = useNotices()
const changes = ref<CueChanges | null>(null)
const from = ref('all')
const replace = ref(false)
const song = computed(() => edit.song)
const selections = computed(() => [
  { value: 'all', text: 'all cues' },
  ...((song.value?.selections ?? []) as CueSelection[]).map(({ id, name }) => ({ value: id, text: name })),
])

const read = (event: Event) => Number((event.target as HTMLInputElement).value)
const place = (field: 'start' | 'heard_from' | 'heard_to', event: Event) => {
  const value = read(event)
  if (Number.isFinite(value)) void edit.run({ do: 'place-song', [field]: value })
}

async function compare(): Promise<void> {
  try {
    const id = edit.state?.id ?? 0
    changes.value = await take(api.GET('/api/edits/{id}/rereading', { params: { path: { id } } }))
  } catch (failure) {
    if (!(failure instanceof Failure)) throw failure
    notices.problem(failure.problem)
  }
}

async function reread(): Promise<void> {
  if (await edit.reread()) changes.value = null
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
  `/api/edits/${edit.state?.id}/cues/${ending}${from.value === 'all' ? '' : `?selection=${from.value}`}`
</script>

<template>
  <p v-if="!song" class="text-muted">Pick the music first.</p>
  <div v-else class="flex flex-col gap-4">
    <section class="flex flex-col gap-2" aria-label="Place of the song">
      <h2 class="truncate text-[15px] font-semibold" :title="song.media.name">{{ song.media.name }}</h2>
      <label>
        <span class="text-muted">Begins at, seconds of the edit</span>
        <input
          class="field num"
          type="number"
          step="0.01"
          :value="(song.start ?? 0).toFixed(3)"
          @change="place('start', $event)"
        />
      </label>
      <div class="grid grid-cols-2 gap-2">
        <label>
          <span class="text-muted">Heard from</span>
          <input
            class="field num"
            type="number"
            step="0.01"
            min="0"
            :value="(song.heard_from ?? 0).toFixed(3)"
            @change="place('heard_from', $event)"
          />
        </label>
        <label>
          <span class="text-muted">to</span>
          <input
            class="field num"
            type="number"
            step="0.01"
            min="0"
            :value="(song.heard_to ?? song.duration).toFixed(3)"
            @change="place('heard_to', $event)"
          />
        </label>
      </div>
      <p class="text-[12px] text-muted">Ties follow their cues. Another song: choose it on the shelf.</p>
    </section>
    <section class="flex flex-col gap-2" aria-label="Listen anew">
      <h3 class="heading">The automatic pass</h3>
      <button class="btn justify-center" @click="compare">What would listening anew change?</button>
      <template v-if="changes">
        <p role="status">
          {{
            total
              ? `${changes.added.length} added, ${changes.removed.length} removed, ${changes.moved.length} moved; ${changes.kept} stay.`
              : 'Nothing: all cues are as they were heard, or set by hand.'
          }}
        </p>
        <button v-if="total" class="btn btn-main justify-center" @click="reread">Take it over</button>
      </template>
    </section>
    <section class="flex flex-col gap-2" aria-label="Cues as files">
      <h3 class="heading">Cues as files</h3>
      <PickList v-model="from" label="Write" :options="selections" up />
      <div class="grid grid-cols-4 gap-1">
        <a
          v-for="format in FORMATS"
          :key="format.ending"
          class="btn justify-center px-1! text-[12px]"
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
