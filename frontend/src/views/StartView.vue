<script setup lang="ts">
/** All edits: open one, begin one, or open a document. */
import { FileInput, Plus, Undo2 } from '@lucide/vue'
import { onMounted, ref, shallowRef } from 'vue'
import { useRouter } from 'vue-router'
import { api, Failure, take, type EditState, type Schemas } from '@/api/client'
import PickList from '@/components/controls/PickList.vue'
import EditRow from '@/components/EditRow.vue'
import NoticeList from '@/components/NoticeList.vue'
import { rate } from '@/lib/format'
import { RATES } from '@/lib/terms'
import { useNotices } from '@/stores/notices'

const router = useRouter()
const notices = useNotices()
const edits = shallowRef<Schemas['EditSummary'][] | null>(null)
const bin = shallowRef<Schemas['EditSummary'][]>([])
const title = ref('')
const chosen = ref<string>('60')
const options = RATES.map((value) => ({ value, text: rate(value) }))

const guarded = (what: () => Promise<void>) => notices.guard(what())

onMounted(() => {
  document.title = 'Izmet'
  return guarded(list)
})

async function list(): Promise<void> {
  show(await take(api.GET('/api/edits')))
}

function show(list: Schemas['EditList']): void {
  edits.value = list.edits
  bin.value = list.bin ?? []
}
const where = (id: number) => ({ params: { path: { id } } })
const toBin = (id: number) => guarded(async () => show(await take(api.DELETE('/api/edits/{id}', where(id)))))
const duplicate = (id: number) =>
  guarded(async () => show(await take(api.POST('/api/edits/{id}/duplicate', where(id)))))
const rename = (one: Schemas['EditSummary'], title: string) =>
  guarded(async () => {
    const body = { base: one.revision, command: { do: 'configure' as const, title } }
    await take(api.POST('/api/edits/{id}/commands', { ...where(one.id), body }))
    await list()
  })
const fromBin = (id: number) =>
  guarded(async () => show(await take(api.POST('/api/edits/{id}/restore', where(id)))))

const open = (state: EditState) => void router.push(`/edits/${state.id}`)
const begin = () =>
  guarded(async () =>
    open(
      await take(
        api.POST('/api/edits', {
          body: { title: title.value.trim() || 'Untitled edit', rate: chosen.value },
        }),
      ),
    ),
  )

const openDocument = (event: Event) =>
  guarded(async () => {
    const input = event.target as HTMLInputElement
    const file = input.files?.[0]
    input.value = ''
    if (!file) return
    const answer = await fetch('/api/edits/import', {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: await file.text(),
    })
    const body = (await answer.json()) as EditState & Schemas['Problem']
    if (!answer.ok) throw new Failure({ ...body, where: [file.name, body.where].filter(Boolean).join(': ') })
    open(body)
    tellUnknown(body)
  })

/** Said once, when they come in. */
function tellUnknown({ edit, bundles }: EditState): void {
  const names = edit.takes?.filter((each) => bundles[each.id] === 'unknown').map((each) => each.media.name)
  if (names?.length) notices.news(`Bundles whose edit is not here cannot be updated: ${names.join(', ')}.`)
}
</script>

<template>
  <div class="h-full overflow-auto">
    <main class="mx-auto flex max-w-3xl flex-col gap-6 px-6 py-14">
      <header>
        <h1 class="text-3xl font-bold text-brass">Izmet</h1>
        <p class="mt-1 text-[15px] text-muted">
          Say which moment lands on which beat. The speed curves follow.
        </p>
      </header>
      <NoticeList />
      <section class="rounded-xl bg-panel p-5" aria-label="Begin">
        <h2 class="text-[15px] font-semibold">Begin an edit</h2>
        <form class="mt-3 grid grid-cols-[1fr_8rem_auto] items-end gap-3" @submit.prevent="begin">
          <label>
            <span class="mb-0.5 block text-muted">Title</span>
            <input v-model="title" class="field" placeholder="Untitled edit" maxlength="200" />
          </label>
          <PickList v-model="chosen" label="Frame rate" :options="options" />
          <button class="btn btn-main" type="submit"><Plus :size="16" />Begin</button>
        </form>
      </section>
      <section aria-label="Edits">
        <div class="mb-2 flex items-center justify-between">
          <h2 class="text-[15px] font-semibold">Your edits</h2>
          <label class="btn cursor-pointer focus-within:outline-2 focus-within:outline-brass">
            <FileInput :size="16" />Open a document
            <input class="sr-only" type="file" accept=".json,application/json" @change="openDocument" />
          </label>
        </div>
        <p v-if="edits?.length === 0" class="rounded-xl border border-dashed border-line p-6 text-muted">
          None yet. Begin one above: then drop a song and a take on its shelf.
        </p>
        <ul class="flex flex-col gap-2">
          <EditRow
            v-for="one in edits ?? []"
            :key="one.id"
            :edit="one"
            @rename="rename(one, $event)"
            @duplicate="duplicate(one.id)"
            @remove="toBin(one.id)"
          />
        </ul>
        <details v-if="bin.length" class="mt-4">
          <summary class="cursor-pointer text-muted">Bin: {{ bin.length }}</summary>
          <ul class="mt-2 flex flex-col gap-2">
            <li
              v-for="one in bin"
              :key="one.id"
              class="flex items-center gap-3 rounded-lg bg-panel px-4 py-2"
            >
              <span class="flex-1 truncate text-muted">{{ one.title }}</span>
              <button class="btn" :aria-label="`Bring back ${one.title}`" @click="fromBin(one.id)">
                <Undo2 :size="16" />Bring back
              </button>
            </li>
          </ul>
        </details>
      </section>
    </main>
  </div>
</template>
