<script setup lang="ts">
/** A cue selection: kinds, strength, every n-th, a stretch, extras picked by hand; named and kept. */
import { computed, ref } from 'vue'
import type { CueKind, CueSelection } from '@/api/client'
import NumberField from '@/components/controls/NumberField.vue'
import NumberSlider from '@/components/controls/NumberSlider.vue'
import { counted } from '@/lib/format'
import { useEdit } from '@/stores/edit'
import { useListening } from '@/stores/listening'
import { everything, useMusic } from '@/stores/music'
import { useView } from '@/stores/view'
import KindChip from './KindChip.vue'

const edit = useEdit()
const music = useMusic()
const view = useView()
const listening = useListening()
const name = ref('')
const draft = computed(() => music.draft)
const count = computed(() => music.chosen?.size ?? edit.cues.length)
const saved = computed(() => (edit.song?.selections ?? []) as CueSelection[])
const start = computed(() => edit.song?.start ?? 0)

function toggle(kind: CueKind): void {
  const kinds = draft.value.kinds
  draft.value.kinds = kinds.includes(kind) ? kinds.filter((other) => other !== kind) : [...kinds, kind]
}

/** Only where the loop is, else only what is in view. */
function limit(): void {
  const { from, to } = listening.loop ?? view
  draft.value.begin = Math.max(0, from - start.value)
  draft.value.end = Math.max(0, to - start.value)
}

function pick(list: 'extra' | 'without'): void {
  const other = list === 'extra' ? 'without' : 'extra'
  const cues = view.selectedCues
  draft.value[other] = draft.value[other].filter((id) => !cues.includes(id))
  draft.value[list] = [...new Set([...draft.value[list], ...cues])]
}

async function save(): Promise<void> {
  const title = name.value.trim()
  if (!title) return
  const same = saved.value.find((other) => other.name === title)
  const taken = new Set(saved.value.map((other) => other.id))
  let number = 1
  while (taken.has(`selection-${number}`)) number += 1
  const selection = { ...draft.value, id: same?.id ?? `selection-${number}`, name: title }
  if (await edit.run({ do: 'save-selection', selection })) name.value = ''
}

function selectAll(): void {
  const cues = edit.cues.filter((cue) => music.isChosen(cue.id)).map((cue) => cue.id)
  view.select(cues.length ? { kind: 'cues', cues } : { kind: 'none' })
}
</script>

<template>
  <div class="flex flex-col gap-3">
    <div class="flex items-baseline justify-between">
      <h2 class="text-[15px] font-semibold" role="status" aria-label="Cues chosen">
        {{ count }} of {{ counted(edit.cues.length, 'cue') }}
      </h2>
      <button class="text-muted underline" @click="music.draft = everything()">all</button>
    </div>
    <div role="group" aria-label="Kinds" class="flex flex-wrap gap-1">
      <KindChip
        v-for="kind in music.lanes"
        :key="kind"
        :kind="kind"
        :on="draft.kinds.includes(kind)"
        @click="toggle(kind)"
      />
    </div>
    <NumberSlider
      label="At least as strong as"
      :value="draft.least"
      :min="0"
      :max="1"
      :step="0.01"
      @input="draft.least = $event"
      @change="draft.least = Math.max(0, Math.min(1, $event))"
    />
    <div class="grid grid-cols-2 gap-2">
      <NumberField
        label="Every"
        :value="draft.every"
        :min="1"
        :max="64"
        @change="draft.every = Math.max(1, Math.min(64, Math.round($event)))"
      />
      <NumberField
        label="Beginning with"
        :value="draft.phase + 1"
        :min="1"
        :max="draft.every"
        @change="draft.phase = Math.max(0, Math.min(63, Math.round($event) - 1))"
      />
    </div>
    <div class="flex items-center gap-2">
      <button class="btn flex-1 justify-center" @click="limit">
        {{ listening.loop ? 'Only in the loop' : 'Only in view' }}
      </button>
      <button v-if="draft.end !== null" class="btn" @click="draft.begin = draft.end = null">Anywhere</button>
    </div>
    <div class="grid grid-cols-2 gap-1">
      <button class="btn justify-center px-1!" :disabled="!view.selectedCues.length" @click="pick('extra')">
        Always take
      </button>
      <button class="btn justify-center px-1!" :disabled="!view.selectedCues.length" @click="pick('without')">
        Never take
      </button>
    </div>
    <button class="btn justify-center" @click="selectAll">Mark these on the rail</button>
    <form class="flex gap-1" @submit.prevent="save">
      <input
        v-model="name"
        class="field"
        placeholder="Name"
        aria-label="Name of the selection"
        maxlength="60"
      />
      <button class="btn" type="submit" :disabled="!name.trim()">Keep</button>
    </form>
    <ul v-if="saved.length" aria-label="Kept selections" class="flex flex-col">
      <li v-for="selection in saved" :key="selection.id" class="flex items-center gap-1">
        <button
          class="flex-1 truncate rounded px-1 py-1 text-left hover:bg-raised"
          @click="music.draft = { ...selection }"
        >
          {{ selection.name }}
        </button>
        <button
          class="btn min-h-6! px-2!"
          :aria-label="`Forget ${selection.name}`"
          @click="edit.run({ do: 'remove-selection', selection: selection.id })"
        >
          ×
        </button>
      </li>
    </ul>
  </div>
</template>
