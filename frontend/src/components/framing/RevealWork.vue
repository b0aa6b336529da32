<script setup lang="ts">
/** The shape that a clip is revealed through, how it grows, and what it follows. */
import { computed } from 'vue'
import type { Clip } from '@/api/client'
import CheckRow from '@/components/controls/CheckRow.vue'
import ChoiceRow from '@/components/controls/ChoiceRow.vue'
import OnPictureButton from '@/components/controls/OnPictureButton.vue'
import PickList from '@/components/controls/PickList.vue'
import { EASINGS } from '@/lib/pulses'
import { SHAPES, inShape, revealOf, withCorner, type Reveal } from '@/lib/reveals'
import { useEdit } from '@/stores/edit'

const props = defineProps<{
  clip: Clip
  /** The clip that goes. */
  before: string
}>()
const edit = useEdit()
const reveal = computed(() => revealOf(props.clip))
const say = (values: Partial<Reveal>) =>
  void edit.run({
    do: 'overlap-clips',
    clip: props.clip.id,
    frames: props.clip.overlap!.frames,
    reveal: { ...reveal.value, ...values },
  })
const NONE = ''
const follows = computed(() => [
  { value: NONE, text: 'nothing' },
  ...(edit.takeOf(props.before)?.tracks ?? []).map(({ id, name }) => ({ value: id, text: name })),
])
</script>

<template>
  <div class="flex flex-col gap-2" role="group" aria-label="Reveal">
    <ChoiceRow
      class="grid-cols-3"
      label="Shape of the reveal"
      :value="reveal.shape"
      :options="SHAPES"
      @change="say(inShape(reveal, $event))"
    />
    <div class="grid grid-cols-2 gap-1">
      <OnPictureButton :tool="{ kind: 'reveal', clip: clip.id }" />
      <button
        v-if="reveal.shape === 'polygon'"
        class="btn justify-center"
        :disabled="reveal.corners.length >= 32"
        @click="say(withCorner(reveal))"
      >
        Add a corner
      </button>
    </div>
    <div class="grid grid-cols-2 gap-2">
      <PickList
        label="Grows"
        :model-value="reveal.grow"
        :options="EASINGS"
        @update:model-value="say({ grow: $event })"
      />
      <PickList
        label="Follows"
        :model-value="reveal.track ?? NONE"
        :options="follows"
        @update:model-value="say({ track: $event || null })"
      />
    </div>
    <CheckRow :checked="reveal.closed" @change="say({ closed: $event })">Starts closed</CheckRow>
  </div>
</template>
