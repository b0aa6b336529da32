<script setup lang="ts">
/** Another song: which of its cues takes the part of each cue that something hangs on; taken whole or line by line. */
import { computed, ref, shallowRef, watch } from 'vue'
import { api, take, type Asset, type Schemas } from '@/api/client'
import { useRouter } from 'vue-router'
import PickList from '@/components/controls/PickList.vue'
import DialogFrame from '@/components/DialogFrame.vue'
import { fileName } from '@/lib/names'
import { useEdit } from '@/stores/edit'
import { useLayout } from '@/stores/layout'
import { useNotices } from '@/stores/notices'
import { kindName } from '@/lib/terms'

const props = defineProps<{ song: Asset | null }>()
const emit = defineEmits<{ close: [] }>()
const edit = useEdit()
const notices = useNotices()
const layout = useLayout()
const router = useRouter()
const rows = shallowRef<Schemas['Carried'][]>([])
/** Other edits in which the song has other cues, and the one whose cues are taken. */
const sources = shallowRef<Schemas['SongSource'][]>([])
const source = ref('')
const choices = computed(() => [
  { value: '', text: 'as analysed' },
  ...sources.value.map(({ edit: id, title }) => ({ value: String(id), text: `as in ${title}` })),
])
/** Cues whose line is not taken: what hangs on them will be loose. */
const without = ref(new Set<string>())

watch(
  () => props.song,
  () => (source.value = ''),
)
watch([() => props.song, source], async ([song, of]) => {
  rows.value = []
  without.value = new Set()
  if (!song) return
  const body = { asset: song.sha256, edit: Number(of) || null }
  const asked = api.POST('/api/edits/{id}/song-change', { params: { path: { id: edit.id } }, body })
  const found = await notices.guard(take(asked))
  rows.value = found?.rows ?? []
  sources.value = found?.sources ?? []
})
/** Look at the song in an edit of its own: what is corrected there can be taken here. */
async function lookAt(): Promise<void> {
  const { song } = props
  if (!song) return
  const title = fileName(song.name)
  const rate = edit.edit?.rate ?? '60'
  const begun = await notices.guard(take(api.POST('/api/edits', { body: { title, rate } })))
  if (!begun) return
  const body = { base: begun.revision, asset: song.sha256, kind: song.kind }
  const used = take(api.POST('/api/edits/{id}/use', { params: { path: { id: begun.id } }, body }))
  if (!(await notices.guard(used))) return
  layout.desk = 'music'
  await router.push(`/edits/${begun.id}`)
}
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
  if (props.song && (await edit.changeSong(props.song.sha256, Number(source.value) || null, to, places)))
    emit('close')
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
    <div class="mt-3 flex items-end gap-2">
      <PickList v-model="source" class="flex-1" label="Its cues" :options="choices" />
      <button
        class="btn"
        title="Opens it in an edit of its own, to be heard and corrected first"
        @click="lookAt"
      >
        Look at it first
      </button>
    </div>
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
