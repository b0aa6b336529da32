<script setup lang="ts">
/** The files that the edit names and that are not on this machine, each to be linked again. */
import { AlertTriangle, Link2 } from '@lucide/vue'
import FileName from '@/components/FileName.vue'
import { useEdit } from '@/stores/edit'

defineEmits<{ link: [missing: string] }>()
const edit = useEdit()
const nameOf = (id: string) => edit.mediaOf(id)?.name ?? 'a file'
</script>

<template>
  <section
    v-if="edit.state?.missing.length"
    aria-label="Missing files"
    class="rounded-md border border-bad p-2"
  >
    <p class="flex items-center gap-1 font-semibold text-bad"><AlertTriangle :size="15" />Missing files</p>
    <div v-for="id in edit.state.missing" :key="id" class="mt-1 flex items-center justify-between gap-2">
      <FileName :name="nameOf(id)" />
      <button class="btn" @click="$emit('link', id)"><Link2 :size="14" />Link</button>
    </div>
  </section>
</template>
