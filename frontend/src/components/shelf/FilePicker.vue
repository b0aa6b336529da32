<script setup lang="ts">
/** Picks files, or all files of a folder; the same files can be picked twice. */
import { ref } from 'vue'
import { ACCEPT } from '@/lib/media'

defineProps<{ label: string; folder?: boolean }>()
const emit = defineEmits<{ pick: [files: File[]] }>()
const input = ref<HTMLInputElement | null>(null)

function picked(): void {
  const files = [...(input.value?.files ?? [])]
  input.value!.value = ''
  emit('pick', files)
}
defineExpose({ open: () => input.value?.click() })
</script>

<template>
  <input
    ref="input"
    class="hidden"
    type="file"
    :multiple="!folder"
    :webkitdirectory="folder"
    :accept="folder ? undefined : ACCEPT"
    :aria-label="label"
    @change="picked"
  />
</template>
