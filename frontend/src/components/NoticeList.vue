<script setup lang="ts">
import { CircleAlert, Info, X } from '@lucide/vue'
import { usePlaceName } from '@/composables/usePlaceName'
import { useNotices, type Action } from '@/stores/notices'

const notices = useNotices()
const placeName = usePlaceName()
const FOCUS_MS = 80
const offered = new Set<number>()

/** The first repair has the focus when it appears: Enter does it. */
function offer(id: number, button: HTMLElement | null): void {
  if (!button || offered.has(id)) return
  offered.add(id)
  // A list or a dialog that closes just then takes the focus back first.
  setTimeout(() => button.focus(), FOCUS_MS)
}

function take(id: number, action: Action): void {
  notices.dismiss(id)
  action.act()
}
</script>

<template>
  <div class="fixed bottom-4 left-1/2 z-50 flex w-[460px] -translate-x-1/2 flex-col gap-2" aria-live="polite">
    <div
      v-for="notice in notices.list"
      :key="notice.id"
      :role="notice.kind === 'problem' ? 'alert' : 'status'"
      class="flex items-start gap-3 rounded-lg border border-line bg-raised p-3 shadow-xl"
    >
      <CircleAlert
        v-if="notice.kind === 'problem'"
        :size="18"
        class="mt-0.5 shrink-0 text-bad"
        aria-hidden="true"
      />
      <Info v-else :size="18" class="mt-0.5 shrink-0 text-good" aria-hidden="true" />
      <div class="min-w-0 flex-1">
        <p class="font-medium break-words">{{ notice.what }}</p>
        <p v-if="notice.where" class="truncate text-muted">{{ placeName(notice.where) }}</p>
        <p v-if="notice.remedy" class="text-muted">{{ notice.remedy }}</p>
        <div v-if="notice.actions.length" class="mt-2 flex flex-col gap-1" role="group" aria-label="Repairs">
          <button
            v-for="(action, index) in notice.actions"
            :key="action.label"
            :ref="(button) => index === 0 && offer(notice.id, button as HTMLElement | null)"
            class="btn text-left"
            @click="take(notice.id, action)"
          >
            {{ action.label }}
          </button>
        </div>
      </div>
      <button class="rounded p-1 text-muted" aria-label="Dismiss" @click="notices.dismiss(notice.id)">
        <X :size="16" />
      </button>
    </div>
  </div>
</template>
