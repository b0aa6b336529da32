<script setup lang="ts">
/** The machines that render: which processes there are, what each does, how fast, what failed. */
import { ArrowLeft } from '@lucide/vue'
import { computed, onMounted } from 'vue'
import { useWorkers } from '@/composables/useWorkers'
import { counted } from '@/lib/format'

const { seen, able } = useWorkers(() => true)
const workers = computed(() => seen.value?.workers ?? [])
const speed = computed(() => able.value.reduce((sum, each) => sum + (each.doing ? (each.speed ?? 0) : 0), 0))
const isOther = (version: string) => version !== seen.value?.version
const facts = computed(() => [
  { name: 'Working', value: `${able.value.filter(({ doing }) => doing).length} of ${workers.value.length}` },
  { name: 'Parts queued', value: String(seen.value?.waiting ?? 0) },
  { name: 'Speed', value: `${speed.value.toFixed(0)} frames/s` },
])

onMounted(() => {
  document.title = 'Workers, Izmet'
})
</script>

<template>
  <div class="h-full overflow-auto">
    <main class="mx-auto flex max-w-4xl flex-col gap-6 px-6 py-14">
      <header class="flex items-end justify-between">
        <div>
          <h1 class="text-3xl font-bold text-brass">Workers</h1>
          <p class="mt-1 text-[15px] text-muted">The machines that render your films.</p>
        </div>
        <RouterLink to="/" class="btn"><ArrowLeft :size="16" />Your edits</RouterLink>
      </header>

      <p v-if="seen?.state === 'alone'" class="rounded-xl border border-dashed border-line p-6 text-muted">
        This machine renders by itself. To share the work, start Izmet and its workers with a Redis, a shared
        folder and a key; the README says how.
      </p>
      <p v-else-if="seen?.state === 'away'" role="alert" class="rounded-xl border border-bad p-6">
        Redis cannot be reached. Nothing is lost: exports go on when it is back.
      </p>
      <template v-else-if="seen">
        <dl class="grid grid-cols-3 gap-3">
          <div v-for="fact in facts" :key="fact.name" class="rounded-xl bg-panel px-5 py-4">
            <dt class="text-muted">{{ fact.name }}</dt>
            <dd class="num mt-1 text-xl font-semibold">{{ fact.value }}</dd>
          </div>
        </dl>
        <p v-if="seen.store" role="alert" class="rounded-xl border border-bad p-6">
          {{ seen.store }} Nothing is lost: exports go on when it is back.
        </p>
        <p v-if="!workers.length" role="alert" class="rounded-xl border border-bad p-6">
          No workers yet. Exports wait until one starts: run <code class="num">izmet worker</code>.
        </p>
        <table v-else class="w-full border-separate border-spacing-y-1" aria-label="Workers">
          <thead class="text-left text-muted">
            <tr>
              <th class="px-4 font-normal">Machine</th>
              <th class="px-4 font-normal">Now</th>
              <th class="px-4 text-right font-normal">Frames/s</th>
              <th class="px-4 text-right font-normal">Parts</th>
              <th class="px-4 text-right font-normal">Failed</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="worker in workers" :key="worker.id" class="bg-panel">
              <th class="rounded-l-lg px-4 py-3 text-left font-semibold" scope="row">
                {{ worker.machine }} <span class="num font-normal text-muted">{{ worker.process }}</span>
              </th>
              <td class="w-[45%] px-4">
                <p v-if="isOther(worker.version)" class="text-bad">Another version: {{ worker.version }}</p>
                <template v-else-if="worker.doing">
                  <p class="flex justify-between gap-3">
                    <span class="truncate">{{ worker.title }}</span>
                    <span class="num text-muted"
                      >{{ worker.done }} of {{ counted(worker.total ?? 0, 'frame') }}</span
                    >
                  </p>
                  <progress
                    class="mt-1 h-1.5 w-full"
                    :value="(worker.done ?? 0) / Math.max(1, worker.total ?? 1)"
                    :aria-label="`Part of ${worker.title}`"
                  />
                </template>
                <p v-else class="text-muted">Idle</p>
              </td>
              <td class="num px-4 text-right">{{ worker.speed ? worker.speed.toFixed(0) : '–' }}</td>
              <td class="num px-4 text-right">{{ worker.parts }}</td>
              <td class="num rounded-r-lg px-4 text-right" :class="worker.failures ? 'text-bad' : ''">
                {{ worker.failures }}
              </td>
            </tr>
          </tbody>
        </table>
      </template>
    </main>
  </div>
</template>
