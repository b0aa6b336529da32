<script setup lang="ts">
/** The take at hand: its facts, moments, what is proposed, selects. */
import { X } from '@lucide/vue'
import { computed } from 'vue'
import type { Schemas, TakeFacts } from '@/api/client'
import FileName from '@/components/FileName.vue'
import MomentDetails from '@/components/details/MomentDetails.vue'
import type { useMeasures } from '@/composables/useMeasures'
import type { TakeWork } from '@/composables/useTakeWork'
import { nearestCue } from '@/lib/cues'
import { counted, percent, rate } from '@/lib/format'
import { tagsIn } from '@/lib/names'
import { vTyped } from '@/lib/typing'
import { useEdit } from '@/stores/edit'
import { useLibrary } from '@/stores/library'
import { useView } from '@/stores/view'
import ProposalList from './ProposalList.vue'
import TakeAbout from './TakeAbout.vue'

defineProps<{ seen: ReturnType<typeof useMeasures>; work: TakeWork }>()
const edit = useEdit()
const view = useView()
const library = useLibrary()
const take = computed(() => view.take)
const facts = computed(
  () =>
    library.takes.find((asset) => asset.sha256 === take.value?.media.sha256)?.facts as TakeFacts | undefined,
)
const moment = computed(() => {
  const selection = view.selection
  return selection.kind === 'moment' && selection.take === view.takeId
    ? take.value?.moments?.find((other) => other.id === selection.moment)
    : undefined
})
/** How slow it may run without a repeat. */
const floor = computed(() => edit.state?.floors[view.takeId ?? ''] ?? 1)
function choose(id: string, frame: number): void {
  view.select({ kind: 'moment', take: view.takeId ?? '', moment: id })
  view.lookAt(frame)
}
type Select = Schemas['Select']
const at = (select: Select) => ({ take: view.takeId ?? '', select: select.id })
const text = (event: Event) => (event.target as HTMLInputElement).value.trim()
/** The cue nearest to the playhead. */
const cueHere = computed(() => nearestCue(edit.cues, view.playhead)?.id)
const seconds = (select: Select) => view.takeClock.time(select.end - select.begin + 1).toFixed(2)
</script>

<template>
  <template v-if="take">
    <section aria-label="Take">
      <h2 class="text-[15px] font-semibold"><FileName :name="take.media.name" /></h2>
      <p class="num text-muted">
        {{ rate(take.rate) }}, {{ counted(take.frames, 'frame') }}, {{ take.width }}×{{ take.height }}
      </p>
      <p v-for="note in facts?.notes ?? []" :key="note" class="mt-1 leading-tight text-brass">{{ note }}</p>
      <TakeAbout :key="take.id" class="mt-1" :take="take" />
    </section>
    <section aria-label="Moments of the take">
      <h3 class="heading">Moments</h3>
      <button
        v-for="each in take.moments ?? []"
        :key="each.id"
        class="mt-1 flex w-full items-center gap-2 rounded-md bg-raised px-2.5 py-1.5 text-left"
        :class="moment?.id === each.id ? 'ring-1 ring-brass' : ''"
        :aria-pressed="moment?.id === each.id"
        @click="choose(each.id, each.frame)"
      >
        <span class="min-w-0 flex-1 truncate font-semibold">{{ each.label || each.kind }}</span>
        <span class="num text-[12px] text-muted">{{ each.label ? each.kind : '' }} {{ each.frame }}</span>
      </button>
      <p v-if="!take.moments?.length" class="mt-1 text-muted">
        None yet. Step to the first frame of the hit, then press <kbd class="num">H</kbd>.
      </p>
    </section>
    <MomentDetails v-if="moment" :key="moment.id" class="rounded-md bg-raised p-2.5" :moment="moment" />
    <ProposalList :key="take.id" :seen="seen" :work="work" />
    <section aria-label="Selects">
      <h3 class="heading">Selects</h3>
      <div
        v-for="(each, index) in take.selects ?? []"
        :key="each.id"
        class="mt-1 flex flex-col gap-1 rounded-md bg-raised p-1.5"
      >
        <div class="flex items-center gap-1">
          <input
            v-typed="each.name"
            class="field min-w-0 flex-1"
            :aria-label="`Name of select ${index + 1}`"
            :placeholder="`select ${index + 1}`"
            @change="edit.run({ do: 'change-select', ...at(each), name: text($event) })"
          />
          <button
            class="btn min-h-6! px-1.5!"
            :disabled="!cueHere"
            :aria-label="`Lay select ${each.name || index + 1}`"
            title="Lay it as a clip that begins on the cue at the playhead"
            @click="edit.run({ do: 'lay-select', ...at(each), cue: cueHere! })"
          >
            Lay
          </button>
          <button
            class="btn min-h-6! px-1!"
            :aria-label="`Delete select ${each.name || index + 1}`"
            @click="edit.run({ do: 'remove-select', ...at(each) })"
          >
            <X :size="13" />
          </button>
        </div>
        <div class="flex items-center gap-2 px-1">
          <button class="num text-[12px] text-muted underline" @click="view.lookAt(each.begin)">
            {{ each.begin }} – {{ each.end }} · {{ seconds(each) }} s
          </button>
          <input
            v-typed="(each.tags ?? []).join(', ')"
            class="field min-w-0 flex-1 text-[12px]!"
            :aria-label="`Tags of select ${each.name || index + 1}`"
            placeholder="tags"
            @change="
              edit.run({
                do: 'change-select',
                ...at(each),
                tags: tagsIn(text($event)),
              })
            "
          />
        </div>
      </div>
      <p v-if="!take.selects?.length" class="mt-1 text-muted">
        <kbd class="num">I</kbd> begins one, <kbd class="num">I</kbd> again ends it.
      </p>
    </section>
    <p class="mt-auto text-[12px]" :class="floor > 1 ? 'text-brass' : 'text-good'">
      {{
        floor > 1
          ? `Pictures repeat below ${percent(floor)} in this edit`
          : `Smooth down to ${percent(floor)} in this edit`
      }}
    </p>
  </template>
  <p v-else class="text-muted">Choose a take on the shelf.</p>
</template>
