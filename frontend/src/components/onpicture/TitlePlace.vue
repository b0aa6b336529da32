<script setup lang="ts">
/** Where a title lies in the picture: where its lines begin, end, or have their middle. */
import { computed } from 'vue'
import type { Box } from '@/lib/composer'
import type { Point } from '@/lib/lying'
import { useEdit } from '@/stores/edit'
import PictureHandle from './PictureHandle.vue'

const props = defineProps<{ title: string; box: Box }>()
const edit = useEdit()
const title = computed(() => edit.titles.find(({ id }) => id === props.title))
const at = computed<Point>(() => ({ x: title.value?.across ?? 0.5, y: title.value?.down ?? 0.5 }))
const within = (part: number) => Math.min(1, Math.max(0, part))
const put = ({ x, y }: Point) =>
  edit.run({ do: 'change-title', title: props.title, across: within(x), down: within(y) })
</script>

<template>
  <PictureHandle v-if="title" label="Place of the title" :at="at" :box="box" @change="put" />
</template>
