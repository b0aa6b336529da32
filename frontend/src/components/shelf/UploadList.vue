<script setup lang="ts">
/** Files on their way here; each can be stopped. */
import { X } from '@lucide/vue'
import FileName from '@/components/FileName.vue'
import { useLibrary } from '@/stores/library'

const library = useLibrary()
</script>

<template>
  <div v-for="(upload, index) in library.uploads" :key="index" role="status" class="rounded-md bg-raised p-2">
    <div class="flex items-center gap-1">
      <FileName class="flex-1" :name="upload.name" />
      <button class="btn px-1!" :aria-label="`Stop copying ${upload.name}`" @click="upload.cancel">
        <X :size="13" />
      </button>
    </div>
    <progress class="h-1 w-full" :value="upload.part" :aria-label="`Copying ${upload.name}`" />
  </div>
</template>
