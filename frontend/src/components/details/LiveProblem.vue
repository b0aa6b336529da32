<script setup lang="ts">
/** Why what a hand drags towards cannot be. */
import { useEdit } from '@/stores/edit'

const edit = useEdit()
</script>

<template>
  <section v-if="edit.liveProblem" role="alert" class="shrink-0 rounded-md border border-bad bg-panel p-2">
    <p class="font-semibold text-bad">This does not work</p>
    <p>{{ edit.liveProblem.what }}</p>
    <p class="text-muted">{{ edit.liveProblem.remedy }}</p>
  </section>
</template>
