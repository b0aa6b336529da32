<script setup lang="ts">
/** Points that are tracked in a clip's take, and which of them stays in its place. */
import { X } from '@lucide/vue'
import { computed } from 'vue'
import { api, type Clip, type Take } from '@/api/client'
import CheckRow from '@/components/controls/CheckRow.vue'
import ChoiceRow from '@/components/controls/ChoiceRow.vue'
import OnPictureButton from '@/components/controls/OnPictureButton.vue'
import RowAction from '@/components/RowAction.vue'
import { useLying } from '@/composables/useLying'
import { percent, progress } from '@/lib/format'
import { seenAt } from '@/lib/lying'
import { trackedAt, type Track } from '@/lib/tracks'
import { useEdit } from '@/stores/edit'
import { isActive, useLibrary } from '@/stores/library'
import { useOnPicture } from '@/stores/onPicture'

const props = defineProps<{ clip: Clip; take: Take }>()
const edit = useEdit()
const library = useLibrary()
const onPicture = useOnPicture()
const { takeSeen } = useLying()
const tracks = computed(() => props.take.tracks ?? [])
const kept = computed(() => props.clip.framing?.kept)
const seen = computed(() => takeSeen(props.take.id))

/** The source frames that the clip shows. */
const shown = computed(() => {
  const source = edit.derivedById.get(props.clip.id)?.source ?? []
  const frames = source.map(Math.round)
  return { begin: Math.max(0, Math.min(...frames)), end: Math.max(...frames) }
})
const jobOf = (track: Track) =>
  library.jobs.find(({ kind, args }) => kind === 'follow' && args.into === edit.id && args.track === track.id)
const following = (track: Track) => {
  const job = jobOf(track)
  return job && isActive(job) ? job : undefined
}
/** Where the clip shows more than the point was followed through, in words. */
function lostIn({ points }: Track): string {
  if (points.length < 2) return ''
  const [first, last] = [points[0]!.frame, points.at(-1)!.frame]
  const { begin, end } = shown.value
  const lost = [...(first > begin ? [`before ${first}`] : []), ...(last < end ? [`after ${last}`] : [])]
  return lost.length ? `Lost ${lost.join(' and ')}. Place it there and track on.` : ''
}
/** From the frame that is looked at, where the take is seen there; else from the first that was set. */
function follow({ id, points }: Track): void {
  const frame = seen.value?.frame ?? points[0]!.frame
  const { begin, end } = shown.value
  const body = {
    ...{ base: edit.state!.revision, take: props.take.id, track: id, frame },
    ...{ begin: Math.min(begin, frame), end: Math.max(end, frame) },
  }
  void library.start(api.POST('/api/edits/{id}/follow', { params: { path: { id: edit.id } }, body }))
}

/** How large the picture is at most, so that no edge is seen. */
const grown = computed(() => {
  const framed = edit.derived?.map.framings.find((each) => each.clip === props.clip.id)
  return framed ? Math.max(...framed.scale) : 1
})

type Hold = 'free' | 'here' | 'before'
const HOLDS: { value: Hold; text: string }[] = [
  { value: 'free', text: 'Free' },
  { value: 'here', text: 'Keep here' },
  { value: 'before', text: 'Match cut' },
]
const holdOf = (track: Track): Hold =>
  kept.value?.track !== track.id ? 'free' : kept.value.x == null ? 'before' : 'here'
function hold(track: Track, how: Hold): void {
  const clip = props.clip.id
  if (how === 'free') return void edit.run({ do: 'keep-point', clip })
  if (how === 'before') return void edit.run({ do: 'keep-point', clip, track: track.id, from_before: true })
  // Where it is seen now; a point outside of the frame is brought in.
  const at = seen.value ? seenAt(trackedAt(track, seen.value.frame), seen.value.lying) : { x: 0.5, y: 0.5 }
  const inside = (part: number) => Math.min(0.95, Math.max(0.05, part))
  void edit.run({ do: 'keep-point', clip, track: track.id, x: inside(at.x), y: inside(at.y) })
}
const through = (whole: boolean) =>
  edit.run({ do: 'keep-point', clip: props.clip.id, track: kept.value!.track, through: whole })
function forget(track: Track): void {
  if (onPicture.holds({ kind: 'point', take: props.take.id, track: track.id })) onPicture.close()
  void edit.run({ do: 'remove-track', take: props.take.id, track: track.id })
}
</script>

<template>
  <section class="flex flex-col gap-1.5" aria-label="Tracked points">
    <h3 class="text-muted">Tracked points</h3>
    <div
      v-for="track in tracks"
      :key="track.id"
      class="flex flex-col gap-1 rounded-md bg-raised p-1.5"
      role="group"
      :aria-label="`Point ${track.name}`"
    >
      <div class="flex items-center gap-1">
        <span class="min-w-0 flex-1 truncate font-semibold">{{ track.name }}</span>
        <span class="num text-[12px] text-muted">{{
          following(track)?.total
            ? progress(following(track)!)
            : following(track)
              ? 'waiting…'
              : track.points.length > 1
                ? `${track.points[0]!.frame}–${track.points.at(-1)!.frame}`
                : `only on ${track.points[0]!.frame}`
        }}</span>
        <RowAction :label="`Remove point ${track.name}`" @click="forget(track)">
          <X :size="14" aria-hidden="true" />
        </RowAction>
      </div>
      <p v-if="jobOf(track)?.state === 'failed'" class="text-bad" role="alert">
        {{ jobOf(track)!.error?.what }} {{ jobOf(track)!.error?.remedy }}
      </p>
      <p v-if="lostIn(track)" class="text-[12px] text-muted">{{ lostIn(track) }}</p>
      <div class="grid grid-cols-2 gap-1">
        <button class="btn justify-center" :disabled="!!following(track)" @click="follow(track)">
          Track it
        </button>
        <OnPictureButton :tool="{ kind: 'point', take: take.id, track: track.id }">Place it</OnPictureButton>
      </div>
      <ChoiceRow
        class="grid-cols-[auto_auto_auto]"
        :label="`Where point ${track.name} stays`"
        :value="holdOf(track)"
        :options="HOLDS"
        @change="hold(track, $event)"
      />
      <p v-if="kept?.track === track.id && grown > 1.005" class="num text-[12px] text-muted">
        Scaled up to {{ percent(grown) }}.
      </p>
      <CheckRow v-if="kept?.track === track.id" :checked="kept.through" @change="through">
        For the whole clip, not just its start
      </CheckRow>
    </div>
    <OnPictureButton :tool="{ kind: 'point', take: take.id, track: null }">Track a point</OnPictureButton>
  </section>
</template>
