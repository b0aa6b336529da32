<script setup lang="ts">
/** What is told, in a place of its own: it takes room beside the rest and lies over nothing. */
import { CircleAlert, Info, X } from '@lucide/vue'
import { useEventListener } from '@vueuse/core'
import { useNotices, type Action } from '@/stores/notices'

const props = defineProps<{ dialog?: boolean }>()
const notices = useNotices()
const FOCUS_MS = 80
const offered = new Set<number>()
/** Where the work was when a repair took the focus: it goes on there. */
let work: Element | null = null

const isMine = () => notices.dialogs > 0 === props.dialog

/** The first repair has the focus when it appears: Enter does it. */
function offer(id: number, button: HTMLElement | null): void {
  if (!button || offered.has(id)) return
  offered.add(id)
  // A list or a dialog that closes just then takes the focus back first.
  setTimeout(() => {
    if (!(document.activeElement?.closest('[aria-label=Notices]') ?? false)) work = document.activeElement
    button.focus()
  }, FOCUS_MS)
}

function goOn(): void {
  if (work instanceof HTMLElement && work.isConnected) work.focus()
}

function take(id: number, action: Action): void {
  notices.dismiss(id)
  goOn()
  action.act()
}

function dismiss(id: number): void {
  notices.dismiss(id)
  goOn()
}

useEventListener(
  window,
  'keydown',
  (event) => {
    const target = event.target as HTMLElement
    if (event.key !== 'Escape' || !isMine() || target.closest('[role=listbox]')) return
    if (!notices.dismissLast()) return
    event.stopPropagation()
    event.preventDefault()
    goOn()
  },
  { capture: true },
)
</script>

<template>
  <section
    v-if="isMine()"
    class="flex max-h-[50vh] shrink-0 flex-col gap-2 overflow-y-auto"
    aria-label="Notices"
    aria-live="polite"
  >
    <div
      v-for="notice in notices.list"
      :key="notice.id"
      :role="notice.kind === 'problem' ? 'alert' : 'status'"
      class="flex items-start gap-2 rounded-lg border bg-panel p-2.5"
      :class="{ problem: 'border-bad', news: 'border-line', question: 'border-brass' }[notice.kind]"
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
        <p v-if="notice.where" class="truncate text-muted">{{ notice.where }}</p>
        <p v-if="notice.remedy" class="text-muted">{{ notice.remedy }}</p>
        <div v-if="notice.actions.length" class="mt-2 flex flex-col gap-1" role="group" aria-label="Repairs">
          <button
            v-for="(action, index) in notice.actions"
            :key="action.label"
            :ref="
              (button) =>
                index === 0 && notice.kind === 'problem' && offer(notice.id, button as HTMLElement | null)
            "
            class="btn text-left whitespace-normal!"
            @click="take(notice.id, action)"
          >
            {{ action.label }}
          </button>
        </div>
      </div>
      <button class="rounded p-1 text-muted" aria-label="Dismiss" title="Escape" @click="dismiss(notice.id)">
        <X :size="16" />
      </button>
    </div>
  </section>
</template>
