<script setup lang="ts">
/** Notes in output time: a flag for each, on its instant; pressed, it is gone to. */
import { useElementSize } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useAxes } from '@/composables/useAxis'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'

const edit = useEdit()
const view = useView()
const box = ref<HTMLElement | null>(null)
const { width } = useElementSize(box)
const { output } = useAxes(width)
const flags = computed(() =>
  edit.notes
    .map((note) => ({ note, x: output.value.x(note.time) }))
    .filter(({ x }) => x >= 0 && x < width.value),
)
</script>

<template>
  <div
    v-if="edit.notes.length"
    ref="box"
    class="relative h-[14px] shrink-0 overflow-hidden"
    role="group"
    aria-label="Notes on the edit"
  >
    <button
      v-for="{ note, x } in flags"
      :key="note.id"
      class="absolute top-0 h-[14px] max-w-40 truncate border-l-2 border-good bg-raised px-1 text-left text-[10px] leading-[14px]"
      :style="{ left: `${x}px` }"
      :title="note.text"
      :aria-label="`Note: ${note.text}`"
      @click="view.seek(note.time)"
    >
      {{ note.text }}
    </button>
  </div>
</template>
