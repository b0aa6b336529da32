<script setup lang="ts">
/** What makes one place felt: accents and sounds that stand there, what can be added, sets for ties. */
import { computed, ref } from 'vue'
import PickList from '@/components/controls/PickList.vue'
import { useCueChoice } from '@/composables/useCueChoice'
import {
  KINDS,
  accentName,
  isStretch,
  standsAt,
  type Accent,
  type AccentKind,
  type Anchor,
  type What,
} from '@/lib/accents'
import { ACCENT_SETS } from '@/lib/terms'
import { useEdit } from '@/stores/edit'
import { useNotices } from '@/stores/notices'
import { useView } from '@/stores/view'
import AccentPicture from './AccentPicture.vue'
import AccentRows from './AccentRows.vue'
import SoundWork from './SoundWork.vue'

const props = defineProps<{
  /** Where it stands, and what that is called. */
  at: Anchor
  place: string
  /** The clip of which the cues can be chosen instead. */
  clip?: string
  /** The ties that sets are laid on, where it does not stand on ties itself. */
  ties?: { clip: string; pin: string }[]
  heading?: boolean
}>()
const edit = useEdit()
const view = useView()
const notices = useNotices()
const { on, choices, onClip } = useCueChoice()
const HERE = 'here'
const where = ref(HERE)
const places = computed(() => [{ value: HERE, text: props.place }, ...choices.value])
const here = computed(() => edit.accents.filter((accent) => standsAt(accent.at, props.at)))
/** The accent at hand, where it does not stand here. */
const elsewhere = computed(() => {
  const chosen = edit.accents.find(({ id }) => id === view.accent)
  return chosen && isStretch(chosen) === isStretch(props) && !here.value.includes(chosen) ? chosen : null
})
const copy = ({ id }: Accent) => edit.run({ do: 'copy-accent', accent: id, at: props.at })
/** The ties that a set is laid on. */
const hits = computed(() => props.ties ?? (props.at.to === 'ties' && !props.at.side ? props.at.ties : []))

async function chosen(): Promise<Anchor> {
  if (where.value === HERE || !props.clip) return props.at
  on.value = where.value
  return { to: 'cues', ...(await onClip(props.clip)) }
}
async function add(kind: AccentKind): Promise<void> {
  const at = await chosen()
  if (at.to === 'cues' && !at.selection && !at.cues?.length)
    return void notices.news('No such cue lies on the clip.')
  const known = new Set(edit.accents.map(({ id }) => id))
  await edit.run({ do: 'add-accent', at, what: { kind } as What })
  view.accent = edit.accents.find(({ id }) => !known.has(id))?.id ?? view.accent
}
const addSet = (set: string) => edit.run({ do: 'add-accent-set', set, ties: hits.value })
</script>

<template>
  <div class="flex flex-col gap-2" role="group" aria-label="Accents here">
    <AccentRows v-if="here.length" :accents="here" />
    <button v-if="elsewhere" class="btn justify-center" @click="copy(elsewhere)">
      Copy the {{ accentName(elsewhere.what.kind).toLowerCase() }} to {{ place }}
    </button>
    <details>
      <summary class="cursor-pointer leading-6" :class="heading ? 'heading' : 'text-muted'">
        Add an accent
      </summary>
      <div class="mt-1 flex flex-col gap-2">
        <PickList v-if="clip" v-model="where" label="Where" :options="places" />
        <div class="grid grid-cols-2 gap-1">
          <button
            v-for="{ kind, name, what } in KINDS"
            :key="kind"
            class="btn flex-col items-start! gap-0.5 py-1.5!"
            :title="what"
            :aria-label="`Accent: ${name}`"
            @click="add(kind)"
          >
            <AccentPicture :kind="kind" />
            <span>{{ name }}</span>
          </button>
        </div>
      </div>
    </details>
    <SoundWork :at="at" :heading="heading" />
    <details v-if="hits.length">
      <summary class="cursor-pointer leading-6" :class="heading ? 'heading' : 'text-muted'">
        Ready sets{{ hits.length > 1 ? ` on ${hits.length} hits` : '' }}
      </summary>
      <div class="mt-1 flex flex-col gap-1">
        <button
          v-for="{ id, name, what } in ACCENT_SETS"
          :key="id"
          class="btn flex-col items-start! gap-0!"
          :aria-label="`Set: ${name}`"
          @click="addSet(id)"
        >
          <span class="font-semibold">{{ name }}</span>
          <span class="text-left text-[12px] text-muted">{{ what }}</span>
        </button>
      </div>
    </details>
  </div>
</template>
