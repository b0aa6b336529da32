<script setup lang="ts">
/** A dialog over the desk: its title, what stands beside it, a way to close, and what it holds. */
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'
import { X } from '@lucide/vue'
import { onScopeDispose, watch } from 'vue'
import NoticeList from '@/components/NoticeList.vue'
import { useNotices } from '@/stores/notices'

const props = defineProps<{ open: boolean; title: string; width: number }>()
defineEmits<{ close: [] }>()
const notices = useNotices()
watch(
  () => props.open,
  (open, before) => (notices.dialogs += Number(open) - Number(before ?? false)),
  { immediate: true },
)
onScopeDispose(() => (notices.dialogs -= Number(props.open)))
</script>

<template>
  <Dialog :open="open" class="relative z-40" @close="$emit('close')">
    <div class="fixed inset-0 bg-black/60" aria-hidden="true" />
    <div class="fixed inset-0 grid place-items-center p-6">
      <DialogPanel
        class="flex max-h-[calc(100vh-3rem)] max-w-full flex-col rounded-xl border border-line bg-panel p-5 shadow-2xl"
        :style="{ width: `${width}px` }"
      >
        <div class="flex items-center gap-3">
          <DialogTitle class="flex-1 text-[17px] font-semibold">{{ title }}</DialogTitle>
          <slot name="beside" />
          <button class="btn" aria-label="Close" @click="$emit('close')"><X :size="16" /></button>
        </div>
        <slot />
        <NoticeList dialog class="mt-3" />
      </DialogPanel>
    </div>
  </Dialog>
</template>
