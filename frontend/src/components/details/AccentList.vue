<script setup lang="ts">
/** All accents of the edit, in order. */
import { computed } from 'vue'
import { useEdit } from '@/stores/edit'
import AccentRows from './AccentRows.vue'

const edit = useEdit()
const firstOf = computed(
  () => new Map((edit.derived?.accents ?? []).map(({ id, first }) => [id, first[0] ?? Infinity])),
)
const accents = computed(() =>
  [...edit.accents].sort((a, b) => firstOf.value.get(a.id)! - firstOf.value.get(b.id)!),
)
</script>

<template>
  <template v-if="accents.length">
    <h2 class="heading">Accents</h2>
    <AccentRows class="-mt-2" :accents="accents" aria-label="Accents" />
  </template>
</template>
