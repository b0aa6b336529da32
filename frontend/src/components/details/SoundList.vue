<script setup lang="ts">
/** All laid sounds, in the order in which they are heard. */
import { computed } from 'vue'
import { useEdit } from '@/stores/edit'
import SoundRows from './SoundRows.vue'

const edit = useEdit()
const firstOf = computed(
  () => new Map((edit.derived?.sounds ?? []).map(({ id, heard }) => [id, heard[0]?.at ?? Infinity])),
)
const sounds = computed(() =>
  [...edit.sounds].sort((a, b) => firstOf.value.get(a.id)! - firstOf.value.get(b.id)!),
)
</script>

<template>
  <template v-if="sounds.length">
    <h2 class="heading">Sounds</h2>
    <SoundRows class="-mt-2" :sounds="sounds" aria-label="Sounds" />
  </template>
</template>
