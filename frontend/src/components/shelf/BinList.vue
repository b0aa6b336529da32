<script setup lang="ts">
/** Files that were taken off the shelf; each can come back. */
import { Undo2 } from '@lucide/vue'
import FileName from '@/components/FileName.vue'
import { keyOf, useLibrary } from '@/stores/library'

const library = useLibrary()
</script>

<template>
  <details v-if="library.bin.length" class="text-muted">
    <summary class="cursor-pointer">Off the shelf: {{ library.bin.length }}</summary>
    <div v-for="asset in library.bin" :key="keyOf(asset)" class="mt-1 flex items-center gap-2">
      <FileName class="flex-1" :name="asset.name" />
      <button class="btn px-1.5!" :aria-label="`Put ${asset.name} back`" @click="library.fromBin(asset)">
        <Undo2 :size="13" />
      </button>
    </div>
  </details>
</template>
