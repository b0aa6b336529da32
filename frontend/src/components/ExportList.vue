<script setup lang="ts">
/** All exports of the edit: how far each has come; one is looked at. */
import { Download, X } from '@lucide/vue'
import RowAction from '@/components/RowAction.vue'
import { exportSaid, type Job } from '@/lib/exports'
import { isActive, useLibrary } from '@/stores/library'

defineProps<{ jobs: Job[]; looked: number | null }>()
defineEmits<{ look: [id: number] }>()
const library = useLibrary()
function stateSaid(job: Job): string {
  if (job.state === 'running') return job.total ? `${Math.floor((100 * job.done) / job.total)} %` : 'starting'
  return { queued: 'waiting', done: 'done', failed: 'failed', cancelled: 'cancelled' }[job.state]
}
</script>

<template>
  <ul class="flex max-h-40 flex-col gap-0.5 overflow-y-auto" aria-label="Exports">
    <li
      v-for="job in jobs"
      :key="job.id"
      class="flex items-center gap-1 rounded"
      :class="job.id === looked ? 'bg-raised' : ''"
    >
      <button
        class="flex min-w-0 flex-1 items-baseline gap-2 px-2 py-1 text-left"
        :aria-current="job.id === looked"
        @click="$emit('look', job.id)"
      >
        <span class="truncate">{{ exportSaid(job) }}</span>
        <span class="num ml-auto text-[12px] text-muted">{{ stateSaid(job) }}</span>
      </button>
      <RowAction
        v-if="isActive(job)"
        :label="`Stop the export as ${exportSaid(job)}`"
        @click="library.cancel(job)"
      >
        <X :size="14" aria-hidden="true" />
      </RowAction>
      <a
        v-else-if="job.state === 'done'"
        class="grid h-6 w-6 place-items-center rounded hover:bg-line"
        :href="`/api/jobs/${job.id}/file`"
        :aria-label="`Save ${exportSaid(job)}`"
        download
      >
        <Download :size="14" aria-hidden="true" />
      </a>
    </li>
  </ul>
</template>
