<script setup lang="ts">
/** The point that an accent goes towards. */
import { computed } from 'vue'
import type { What } from '@/lib/accents'
import type { Box } from '@/lib/composer'
import type { Point } from '@/lib/lying'
import { useEdit } from '@/stores/edit'
import PictureEye from './PictureEye.vue'

const props = defineProps<{ accent: string; box: Box }>()
const edit = useEdit()
const what = computed(() => {
  const found = edit.accents.find(({ id }) => id === props.accent)?.what
  return found?.kind === 'zoom-blur' ? found : null
})
const at = computed<Point>(() => ({ x: what.value?.x ?? 0.5, y: what.value?.y ?? 0.5 }))
const saying = ({ x, y }: Point) =>
  ({ do: 'change-accent', accent: props.accent, what: { ...what.value, x, y } as What }) as const
</script>

<template>
  <PictureEye
    v-if="what"
    label="Point of the zoom blur"
    :at="at"
    :box="box"
    @input="edit.dryRun(saying($event))"
    @change="edit.run(saying($event))"
  />
</template>
