<script setup lang="ts">
/** Where the song ends: cut on a bar, or joined where it is like itself, so that it ends with the picture. */
import { Play, Square } from '@lucide/vue'
import { computed, ref } from 'vue'
import { api, take, type Schemas } from '@/api/client'
import NumberField from '@/components/controls/NumberField.vue'
import RowAction from '@/components/RowAction.vue'
import { useExcerpt } from '@/composables/useExcerpt'
import { counted, seconds } from '@/lib/format'
import { useEdit } from '@/stores/edit'
import { isActive, useLibrary } from '@/stores/library'
import { useNotices } from '@/stores/notices'

type Join = Schemas['SongJoin']

const edit = useEdit()
const library = useLibrary()
const notices = useNotices()
const params = computed(() => ({ path: { id: edit.id } }))
const song = computed(() => edit.song!)
const ends = computed(() => edit.music?.heard_to ?? 0)
/** Typed, or the end of the picture. */
const typed = ref<number | null>(null)
const wanted = computed(() => typed.value ?? (edit.pictureEnd || ends.value))
const joins = ref<{ of: string; found: Join[] } | null>(null)
const found = computed(() => (joins.value?.of === song.value.media.sha256 ? joins.value?.found : undefined))
const making = computed(() =>
  library.jobs.some((job) => job.kind === 'join' && job.args.into === edit.id && isActive(job)),
)

const bar = computed(() => {
  const bars = edit.cues.filter(({ kind }) => kind === 'downbeat').map(({ at }) => at)
  const off = (at: number) => Math.abs(at - wanted.value)
  return bars.length ? bars.reduce((best, at) => (off(at) < off(best) ? at : best)) : null
})
const cutOnBar = () => edit.run({ do: 'place-song', heard_to: bar.value! - (song.value.start ?? 0) })

async function find(): Promise<void> {
  const of = song.value.media.sha256!
  const query = { end: wanted.value }
  const asked = take(api.GET('/api/edits/{id}/song-joins', { params: { ...params.value, query } }))
  const answer = await notices.guard(asked)
  joins.value = answer ? { of, found: answer.joins } : null
}

const use = ({ leave, enter, times }: Join) => {
  stop()
  const body = { base: edit.state!.revision, leave, enter, times }
  void library.start(api.POST('/api/edits/{id}/join-song', { params: params.value, body }))
}

const { playing, toggle, stop } = useExcerpt()
const addressOf = ({ leave, enter }: Join) => `/api/edits/${edit.id}/song-join?leave=${leave}&enter=${enter}`

const named = ({ leave, enter }: Join) => `${tenths(leave)} to ${tenths(enter)}`
const tenths = (at: number) => seconds(at, 1)
const said = ({ leave, enter, bars, times }: Join) =>
  `${counted(bars, 'bar')} ${enter > leave ? 'cut' : times > 1 ? `added, ${times} repeats` : 'repeated'}`
</script>

<template>
  <section class="flex flex-col gap-2" aria-label="Length of the song">
    <h3 class="heading">Its length</h3>
    <p class="num text-muted">Ends at {{ seconds(ends) }}, the picture at {{ seconds(edit.pictureEnd) }}.</p>
    <NumberField
      label="End at, seconds of the edit"
      :min="0"
      :step="0.01"
      :digits="3"
      :value="wanted"
      @change="typed = $event"
    />
    <div class="grid grid-cols-2 gap-1">
      <button
        class="btn justify-center px-1!"
        :disabled="bar === null"
        :title="bar === null ? 'The song has no bars yet' : `The bar at ${seconds(bar)}`"
        @click="cutOnBar"
      >
        Cut on the bar
      </button>
      <button class="btn justify-center px-1!" :disabled="making" @click="find">Find joins</button>
    </div>
    <p v-if="making" role="status" class="text-brass">Making it; the edit will switch to it.</p>
    <template v-else-if="found">
      <p v-if="!found.length" role="status" class="text-muted">No good match near that length.</p>
      <ul v-else class="flex flex-col gap-1.5" aria-label="Joins of the song">
        <li
          v-for="join in found"
          :key="named(join)"
          class="grid grid-cols-[auto_1fr_auto] items-center gap-1.5"
        >
          <RowAction
            :label="playing === addressOf(join) ? 'Stop' : `Hear ${named(join)}`"
            @click="toggle(addressOf(join))"
          >
            <component :is="playing === addressOf(join) ? Square : Play" :size="14" aria-hidden="true" />
          </RowAction>
          <span class="min-w-0">
            <span class="num block">{{ named(join) }}</span>
            <span class="block text-[12px] text-muted">{{ said(join) }}</span>
            <span class="block text-[12px] text-muted">
              {{ Math.round(join.alike * 100) }} % match, ends {{ tenths(join.end) }}
            </span>
            <span v-if="join.loose" class="block text-[12px] text-bad">
              {{ counted(join.loose, 'tie') }} loose
            </span>
          </span>
          <button class="btn px-2!" :aria-label="`Use ${named(join)}`" @click="use(join)">Use</button>
        </li>
      </ul>
    </template>
  </section>
</template>
