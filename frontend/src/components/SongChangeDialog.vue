<script setup lang="ts">
/** Another song: which of its cues takes the part of each cue that something hangs on; taken whole or line by line. */
import { computed, ref, shallowRef, watch } from 'vue'
import { api, take, type Asset, type Schemas } from '@/api/client'
import DialogFrame from '@/components/DialogFrame.vue'
import { fileName } from '@/lib/names'
import { useEdit } from '@/stores/edit'
import { useNotices } from '@/stores/notices'
import { kindName } from '@/lib/terms'

const props = defineProps<{ song: Asset | null }>()
const emit = defineEmits<{ close: [] }>()
const edit = useEdit()
const notices = useNotices()
const rows = shallowRef<Schemas['Carried'][]>([])
/** Cues whose line is not taken: what hangs on them will be loose. */
const without = ref(new Set<string>())

watch(
  () => props.song,
  async (song) => {
    rows.value = []
    without.value = new Set()
    if (!song || !edit.state) return
    const path = { id: edit.id }
    const asked = api.POST('/api/edits/{id}/song-change', { params: { path }, body: { asset: song.sha256 } })
    rows.value = (await notices.guard(take(asked)))?.rows ?? []
  },
)
const lost = computed(() => rows.value.filter((row) => !row.to || without.value.has(row.cue)))
/** By how many seconds the music begins later, for what lies before it. */
const later = computed(
  () => Math.max(0, ...lost.value.map((row) => -row.place)) - (edit.state?.edit.song?.start ?? 0),
)

function flip(cue: string): void {
  const next = new Set(without.value)
  if (!next.delete(cue)) next.add(cue)
  without.value = next
}

async function change(): Promise<void> {
  const to = Object.fromEntries(
    rows.value.map((row) => [row.cue, without.value.has(row.cue) ? null : (row.to ?? null)]),
  )
  const places = Object.fromEntries(rows.value.map((row) => [row.cue, row.place]))
  if (props.song && (await edit.changeSong(props.song.sha256, to, places))) emit('close')
}
</script>

<template>
  <DialogFrame
    :open="!!song"
    :title="`Change to ${fileName(song?.name ?? '')}`"
    :width="640"
    @close="$emit('close')"
  >
    <p class="text-muted">
      Each cue's part is taken by the one in the same place of the music: drop for drop, counted in beats.
    </p>
    <div class="mt-3 min-h-0 overflow-auto">
      <table class="num w-full text-[12px] [&_td]:px-2 [&_td]:py-1">
        <thead>
          <tr class="text-left">
            <th class="px-2">Now</th>
            <th class="px-2">Holds</th>
            <th class="px-2">Then</th>
            <th class="px-2">Sure</th>
            <th class="px-2">Take</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in rows" :key="row.cue">
            <td>{{ kindName(row.kind) }} {{ row.time.toFixed(2) }} s</td>
            <td class="max-w-48 truncate" :title="row.holds.join(', ')">{{ row.holds.join(', ') }}</td>
            <td :class="row.to ? '' : 'text-bad'">
              {{ row.to ? `${kindName(row.to_kind)} ${row.to_time?.toFixed(2)} s` : 'loose' }}
            </td>
            <td>{{ row.to ? `${Math.round(row.sure * 100)} %` : '' }}</td>
            <td>
              <input
                v-if="row.to"
                type="checkbox"
                class="size-6 accent-brass"
                :aria-label="`Take the line of ${kindName(row.kind)} ${row.time.toFixed(2)} s`"
                :checked="!without.has(row.cue)"
                @change="flip(row.cue)"
              />
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <div class="mt-4 flex items-center gap-2 whitespace-nowrap">
      <span :class="lost.length ? 'text-bad' : 'text-good'">{{
        lost.length ? `${lost.length} will be loose` : 'All is carried over'
      }}</span>
      <span v-if="later > 0" class="text-muted" title="What has no part in it lies before it">
        The music begins {{ later.toFixed(2) }} s later
      </span>
      <span class="flex-1" />
      <button class="btn" @click="$emit('close')">Keep the song</button>
      <button class="btn btn-main" @click="change">Change the song</button>
    </div>
  </DialogFrame>
</template>
