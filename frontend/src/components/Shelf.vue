<script setup lang="ts">
import { AlertTriangle, FolderPlus, Layers, Link2, Music, Plus, Undo2, X } from '@lucide/vue'
import { useLocalStorage } from '@vueuse/core'
import { computed, ref, shallowRef } from 'vue'
import { partOf, type Asset, type SongFacts, type TakeFacts } from '@/api/client'
import AssetStatus from '@/components/AssetStatus.vue'
import BundleBar from '@/components/BundleBar.vue'
import PickList from '@/components/controls/PickList.vue'
import FileName from '@/components/FileName.vue'
import ReadingQueue from '@/components/ReadingQueue.vue'
import RecipeList from '@/components/RecipeList.vue'
import SongChangeDialog from '@/components/SongChangeDialog.vue'
import ShelfAction from '@/components/ShelfAction.vue'
import { progress, rate, rateOf, seconds } from '@/lib/format'
import { ACCEPT, isMedia } from '@/lib/media'
import { useEdit } from '@/stores/edit'
import { keyOf, useLibrary } from '@/stores/library'
import { useView } from '@/stores/view'

const edit = useEdit()
const library = useLibrary()
const view = useView()
const dragging = ref(false)
const picker = ref<HTMLInputElement | null>(null)
const folder = ref<HTMLInputElement | null>(null)
/** What the next file that is picked replaces: a take's id, 'song', or nothing. */
const relinking = ref<string | null>(null)

const takeFacts = (asset: Asset) => asset.facts as TakeFacts
const songFacts = (asset: Asset) => asset.facts as SongFacts
/** What listening to a song has told so far. */
function heard(asset: Asset): string {
  const job = library.listeningTo(asset.sha256)
  if (job) return job.total ? `listening, ${progress(job)}` : 'listening…'
  const { duration, tempo } = songFacts(asset)
  return `${seconds(duration).slice(0, -4)} · ${tempo ? `${Math.round(tempo)} bpm` : 'no pulse'}`
}
/**
 * Rate and length of a take, its picture size where it is another than the edit's, how many moments and clips
 * the edit has of it.
 */
function aboutTake(asset: Asset): string[] {
  const { rate: native, frames, width, height } = takeFacts(asset)
  const other = width !== edit.edit?.width || height !== edit.edit?.height
  const count = (n: number, one: string) => (n ? `${n} ${one}${n > 1 ? 's' : ''}` : '')
  return [
    rate(native),
    seconds(frames / rateOf(native)).slice(0, -4),
    other ? `${width}×${height}` : '',
    count(takeOf(asset)?.moments?.length ?? 0, 'moment'),
    count(uses(asset), 'clip'),
  ].filter(Boolean)
}
/** The song that is offered in place of the one in use. */
const otherSong = shallowRef<Asset | null>(null)
const sought = ref('')
const FEW = 6
const ORDERS = { new: 'newest first', name: 'by name', long: 'longest first', used: 'most used first' }
const order = useLocalStorage<keyof typeof ORDERS>('izmet-shelf-order', 'new')
const orders = (Object.keys(ORDERS) as (keyof typeof ORDERS)[]).map((value) => ({
  value,
  text: ORDERS[value],
}))
/** What a take is called: the edit may have another name for the file. */
const nameOfTake = (asset: Asset) => takeOf(asset)?.media.name ?? asset.name
const uses = (asset: Asset) => edit.clips.filter((clip) => clip.take === takeOf(asset)?.id).length
const length = ({ state, facts }: Asset) =>
  state === 'ready' ? (facts as TakeFacts).frames / rateOf((facts as TakeFacts).rate) : 0
function found(asset: Asset): boolean {
  const take = takeOf(asset)
  const words = [nameOfTake(asset), asset.name, ...(take?.tags ?? []), take?.notes ?? '']
  return words.join(' ').toLowerCase().includes(sought.value.trim().toLowerCase())
}
const takes = computed(() => {
  // A bundle is on the shelf of the edits that hold it; another one brings it in as an edit.
  const shown = library.takes.filter((asset) => found(asset) && (!asset.bundle || takeOf(asset)))
  if (order.value === 'name') shown.sort((a, b) => nameOfTake(a).localeCompare(nameOfTake(b)))
  if (order.value === 'long') shown.sort((a, b) => length(b) - length(a))
  if (order.value === 'used') shown.sort((a, b) => uses(b) - uses(a))
  return shown
})
const takeOf = (asset: Asset) => edit.takes.find((take) => take.media.sha256 === asset.sha256)
/** Whether a clip shows the take. */
const isLaid = (asset: Asset) => edit.clips.some((clip) => clip.take === takeOf(asset)?.id)
const isSong = (asset: Asset) => edit.song?.media.sha256 === asset.sha256

const coming = new Map<string, Promise<boolean>>()
/** Have a take in the edit, once: it may be on its way already when somebody chooses it. */
function bringIn(asset: Asset): Promise<boolean> {
  if (takeOf(asset)) return Promise.resolve(true)
  const { sha256 } = asset
  const use = coming.get(sha256) ?? edit.use(asset).finally(() => coming.delete(sha256))
  coming.set(sha256, use)
  return use
}

async function choose(asset: Asset): Promise<void> {
  if (asset.state !== 'ready') return
  if (asset.kind === 'song') {
    if (isSong(asset)) return view.fit()
    // What hangs on cues is carried over line by line, not let go.
    if (edit.landings.length) return void (otherSong.value = asset)
    await edit.use(asset)
    view.fit()
    return
  }
  if (await bringIn(asset)) {
    view.choose(takeOf(asset)?.id ?? null)
    if (view.clip) view.fit()
  }
}

/** What a folder holds besides is not for the shelf; what is picked by itself is refused with a word. */
const forShelf = (file: File) => !file.webkitRelativePath || isMedia(file.name)

function put(files: FileList | null): void {
  const target = relinking.value
  relinking.value = null
  // A copy: the input's own list empties when the input does.
  const dropped = [...(files ?? [])].filter(forShelf)
  if (target !== null && dropped[0]) void link(dropped[0], target)
  else void bring(dropped)
}

async function link(file: File, target: string): Promise<void> {
  const asset = await library.upload(file, target === 'song' ? 'song' : 'take')
  if (asset) await edit.relink(asset.sha256, target === 'song' ? null : target)
}

/** Bring all files into the edit as they are read; the first of its takes is looked at, once. */
async function bring(files: File[]): Promise<void> {
  let looked = false
  const bringOne = async (file: File) => {
    const asset = await library.upload(file)
    if (!asset || (await edit.found(asset))) return
    if (asset.kind === 'song') return edit.song ? undefined : choose(asset)
    if (looked) return void (await bringIn(asset))
    looked = true
    await choose(asset)
  }
  await Promise.all(files.map(bringOne))
}

function pick(target: string | null = null): void {
  relinking.value = target
  picker.value?.click()
}

function drop(event: DragEvent): void {
  dragging.value = false
  put(event.dataTransfer?.files ?? null)
}

const nameOf = (id: string) =>
  id === 'song' ? edit.song?.media.name : edit.takes.find((take) => take.id === id)?.media.name
</script>

<template>
  <aside
    class="flex min-h-0 flex-col gap-2 overflow-y-auto rounded-lg bg-panel p-3"
    :class="dragging ? 'outline-2 outline-brass' : ''"
    aria-label="Shelf"
    @dragover.prevent="dragging = true"
    @dragleave="dragging = false"
    @drop.prevent="drop"
  >
    <input
      ref="picker"
      class="hidden"
      type="file"
      multiple
      :accept="ACCEPT"
      aria-label="Files for the shelf"
      @change="
        put(($event.target as HTMLInputElement).files)
        ;($event.target as HTMLInputElement).value = ''
      "
    />

    <input
      ref="folder"
      class="hidden"
      type="file"
      webkitdirectory
      aria-label="A folder for the shelf"
      @change="
        put(($event.target as HTMLInputElement).files)
        ;($event.target as HTMLInputElement).value = ''
      "
    />

    <section
      v-if="edit.state?.missing.length"
      aria-label="Missing files"
      class="rounded-md border border-bad p-2"
    >
      <p class="flex items-center gap-1 font-semibold text-bad"><AlertTriangle :size="15" />Missing files</p>
      <div v-for="id in edit.state.missing" :key="id" class="mt-1 flex items-center justify-between gap-2">
        <FileName :name="nameOf(id) ?? 'a take'" />
        <button class="btn" @click="pick(id)"><Link2 :size="14" />Link</button>
      </div>
    </section>

    <ReadingQueue />
    <h2 class="heading">Songs</h2>
    <div
      v-for="asset in library.songs"
      :key="keyOf(asset)"
      class="group relative flex items-start rounded-md"
      :class="isSong(asset) ? 'bg-raised ring-1 ring-brass' : 'hover:bg-raised'"
    >
      <button
        class="flex min-w-0 flex-1 items-center gap-2 p-2 text-left"
        :disabled="asset.state !== 'ready'"
        :aria-pressed="isSong(asset)"
        @click="choose(asset)"
      >
        <Music :size="16" class="shrink-0 text-brass" aria-hidden="true" />
        <span class="min-w-0 flex-1">
          <FileName class="font-semibold" :name="asset.name" />
          <AssetStatus :asset="asset">
            <span class="shelf-fact text-muted">{{ heard(asset) }}</span>
          </AssetStatus>
        </span>
      </button>
      <ShelfAction :asset="asset" :used="isSong(asset)" />
    </div>
    <p v-if="!library.songs.length" class="text-muted">Begin with the music: drop a song here.</p>

    <h2 class="heading mt-1">Takes</h2>
    <input
      v-if="library.takes.length > FEW || sought"
      v-model="sought"
      class="field"
      type="search"
      aria-label="Search the takes"
      placeholder="Search"
    />
    <PickList
      v-if="library.takes.length > FEW"
      v-model="order"
      label="Order of the takes"
      hide-label
      :options="orders"
    />
    <p v-if="sought && !takes.length" class="text-muted">No take is called that.</p>
    <div
      v-for="asset in takes"
      :key="keyOf(asset)"
      class="group relative flex items-start rounded-md"
      :class="
        takeOf(asset)?.id === view.takeId && view.takeId ? 'bg-raised ring-1 ring-brass' : 'hover:bg-raised'
      "
    >
      <button
        class="flex min-w-0 flex-1 items-center gap-2 p-1.5 text-left"
        :disabled="asset.state !== 'ready'"
        :aria-pressed="takeOf(asset)?.id === view.takeId"
        @click="choose(asset)"
      >
        <img
          v-if="asset.state === 'ready'"
          class="h-[36px] w-[56px] shrink-0 rounded bg-ground object-cover"
          alt=""
          :src="partOf(asset.sha256, 'poster')"
        />
        <span class="min-w-0 flex-1">
          <FileName class="font-semibold" :name="nameOfTake(asset)" />
          <AssetStatus :asset="asset">
            <span
              class="shelf-fact flex! flex-wrap gap-x-2 text-muted"
              :title="`${takeFacts(asset).width}×${takeFacts(asset).height}`"
            >
              <span v-for="fact in aboutTake(asset)" :key="fact" class="whitespace-nowrap">{{ fact }}</span>
            </span>
            <span
              v-if="takeFacts(asset).notes.length"
              class="shelf-fact truncate text-brass"
              :title="takeFacts(asset).notes.join(' ')"
              >{{ takeFacts(asset).notes[0] }}</span
            >
          </AssetStatus>
        </span>
      </button>
      <RouterLink
        v-if="asset.bundle"
        class="btn m-1 shrink-0 px-1.5!"
        :to="`/edits/${asset.bundle}`"
        :aria-label="`Open what ${nameOfTake(asset)} holds`"
        title="A bundle: open what it holds"
      >
        <Layers :size="13" />
      </RouterLink>
      <ShelfAction :asset="asset" :used="isLaid(asset)" />
    </div>
    <BundleBar />
    <p v-if="!library.takes.length" class="text-muted">Then the footage: drop your takes here.</p>

    <RecipeList />
    <SongChangeDialog :song="otherSong" @close="otherSong = null" />

    <div
      v-for="(upload, index) in library.uploads"
      :key="index"
      role="status"
      class="rounded-md bg-raised p-2"
    >
      <div class="flex items-center gap-1">
        <FileName class="flex-1" :name="upload.name" />
        <button class="btn px-1!" :aria-label="`Stop copying ${upload.name}`" @click="upload.cancel">
          <X :size="13" />
        </button>
      </div>
      <progress class="h-1 w-full" :value="upload.part" :aria-label="`Copying ${upload.name}`" />
    </div>
    <details v-if="library.bin.length" class="text-muted">
      <summary class="cursor-pointer">Off the shelf: {{ library.bin.length }}</summary>
      <div v-for="asset in library.bin" :key="keyOf(asset)" class="mt-1 flex items-center gap-2">
        <FileName class="flex-1" :name="asset.name" />
        <button class="btn px-1.5!" :aria-label="`Put ${asset.name} back`" @click="library.fromBin(asset)">
          <Undo2 :size="13" />
        </button>
      </div>
    </details>
    <span class="flex-1" />
    <div class="grid grid-cols-[1fr_auto] gap-1">
      <button class="btn justify-center" @click="pick()"><Plus :size="16" />Add files</button>
      <button class="btn" aria-label="Add a folder" title="All media of a folder" @click="folder?.click()">
        <FolderPlus :size="16" />
      </button>
    </div>
    <p class="text-center text-[12px] text-muted">or drop them here</p>
  </aside>
</template>
