<script setup lang="ts">
import { AlertTriangle, FolderPlus, Layers, Link2, Music, Plus, Undo2, X } from '@lucide/vue'
import { ref, shallowRef } from 'vue'
import { partOf, type Asset, type SongFacts, type TakeFacts } from '@/api/client'
import AssetStatus from '@/components/AssetStatus.vue'
import BundleBar from '@/components/BundleBar.vue'
import PickList from '@/components/controls/PickList.vue'
import FileName from '@/components/FileName.vue'
import ReadingQueue from '@/components/ReadingQueue.vue'
import RecipeList from '@/components/RecipeList.vue'
import SongChangeDialog from '@/components/SongChangeDialog.vue'
import ShelfAction from '@/components/ShelfAction.vue'
import { counted, progress, rate, rateOf, seconds } from '@/lib/format'
import { ACCEPT, isMedia } from '@/lib/media'
import { RATES } from '@/lib/terms'
import { useEdit } from '@/stores/edit'
import { keyOf, useLibrary } from '@/stores/library'
import { useNotices } from '@/stores/notices'
import { ORDERS, useShelf } from '@/stores/shelf'
import { useView } from '@/stores/view'

const edit = useEdit()
const library = useLibrary()
const view = useView()
const shelf = useShelf()
const notices = useNotices()
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
  const { tempo } = songFacts(asset)
  return tempo ? `${Math.round(tempo)} bpm` : 'no pulse'
}
/** A take's length at a glance. */
function lengthOf(asset: Asset): string {
  const { rate: native, frames } = takeFacts(asset)
  return seconds(frames / rateOf(native)).slice(0, -4)
}
/** All there is to say of it: its picture size too, how many moments and clips the edit has of it, what to know. */
function aboutTake(asset: Asset): string {
  const { rate: native, width, height, notes } = takeFacts(asset)
  const [moments, clips] = [takeOf(asset)?.moments?.length ?? 0, uses(asset)]
  return [
    `${nameOfTake(asset)}: ${rate(native)}, ${lengthOf(asset)}, ${width}×${height}`,
    `${counted(moments, 'moment')}, ${counted(clips, 'clip')}`,
    ...(bundleState(asset) === 'unknown'
      ? ['A bundle of an edit that is not here, so it cannot be updated']
      : []),
    ...notes,
  ].join('. ')
}
const bundleState = (asset: Asset) => edit.state?.bundles[takeOf(asset)?.id ?? '']
const aboutBundle = (asset: Asset) =>
  bundleState(asset) === 'behind'
    ? 'A bundle, out of date: open what it holds'
    : 'A bundle: open what it holds'
/** The song that is offered in place of the one in use. */
const otherSong = shallowRef<Asset | null>(null)
const FEW = 6
const orders = (Object.keys(ORDERS) as (keyof typeof ORDERS)[]).map((value) => ({
  value,
  text: ORDERS[value],
}))
const { takeOf, nameOf: nameOfTake, uses } = shelf
/** Whether a clip shows the take. */
const isLaid = (asset: Asset) => edit.clips.some((clip) => clip.take === takeOf(asset)?.id)
const isSong = (asset: Asset) => edit.song?.media.sha256 === asset.sha256

const coming = new Map<string, Promise<boolean>>()
/** Have a take in the edit, once: it may be on its way already when somebody chooses it. */
function bringIn(asset: Asset): Promise<boolean> {
  if (takeOf(asset)) return Promise.resolve(true)
  const { sha256 } = asset
  const use = coming.get(sha256) ?? useTake(asset).finally(() => coming.delete(sha256))
  coming.set(sha256, use)
  return use
}

/** The first take of an edit asks whether the edit should go at its rate, where its pictures would repeat. */
async function useTake(asset: Asset): Promise<boolean> {
  const isFirst = !edit.takes.length
  if (!(await edit.use(asset))) return false
  const take = takeOf(asset)
  const wanted = take && (RATES.includes(take.distinct) ? take.distinct : take.rate)
  const now = edit.edit?.rate ?? '60'
  if (!isFirst || edit.clips.length || !wanted || rateOf(wanted) >= rateOf(now) - 1e-6) return true
  notices.ask(`Match the edit to this take: ${rate(wanted)}?`, `At ${rate(now)} its pictures repeat.`, [
    { label: `Make the edit ${rate(wanted)}`, act: () => void edit.run({ do: 'configure', rate: wanted }) },
    { label: `Keep ${rate(now)}`, act: () => undefined },
  ])
  return true
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
    class="flex min-h-0 flex-col rounded-lg bg-panel"
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

    <div class="flex min-h-0 flex-1 flex-col gap-2 overflow-y-auto p-3">
      <section
        v-if="edit.state?.missing.length"
        aria-label="Missing files"
        class="rounded-md border border-bad p-2"
      >
        <p class="flex items-center gap-1 font-semibold text-bad">
          <AlertTriangle :size="15" />Missing files
        </p>
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
        class="group relative -my-0.5 flex items-center rounded-md"
        :class="isSong(asset) ? 'bg-raised ring-1 ring-brass' : 'hover:bg-raised'"
      >
        <button
          class="flex min-h-7 min-w-0 flex-1 flex-wrap items-center gap-x-1.5 px-1 text-left"
          :disabled="asset.state !== 'ready'"
          :aria-pressed="isSong(asset)"
          :title="
            asset.state === 'ready' ? `${asset.name}, ${seconds(songFacts(asset).duration)}` : asset.name
          "
          @click="choose(asset)"
        >
          <Music :size="14" class="shrink-0 text-brass" aria-hidden="true" />
          <FileName class="min-w-0 flex-1 font-semibold" :name="asset.name" />
          <AssetStatus :asset="asset">
            <span class="num shrink-0 text-[11px] text-muted">{{ heard(asset) }}</span>
          </AssetStatus>
        </button>
        <ShelfAction :asset="asset" :used="isSong(asset)" />
      </div>
      <p v-if="!library.songs.length" class="text-muted">Begin with the music: drop a song here.</p>

      <h2 class="heading mt-1">Takes</h2>
      <input
        v-if="library.takes.length > FEW || shelf.sought"
        v-model="shelf.sought"
        class="field"
        type="search"
        aria-label="Search the takes"
        placeholder="Search"
      />
      <PickList
        v-if="library.takes.length > FEW"
        v-model="shelf.order"
        label="Order of the takes"
        hide-label
        :options="orders"
      />
      <p v-if="shelf.sought && !shelf.takes.length" class="text-muted">No take is called that.</p>
      <div
        v-for="asset in shelf.takes"
        :key="keyOf(asset)"
        class="group relative -my-0.5 flex items-center rounded-md"
        :class="
          takeOf(asset)?.id === view.takeId && view.takeId ? 'bg-raised ring-1 ring-brass' : 'hover:bg-raised'
        "
      >
        <button
          class="flex min-h-7 min-w-0 flex-1 flex-wrap items-center gap-x-1.5 px-1 text-left"
          :disabled="asset.state !== 'ready'"
          :aria-pressed="takeOf(asset)?.id === view.takeId"
          :title="asset.state === 'ready' ? aboutTake(asset) : undefined"
          @click="choose(asset)"
        >
          <img
            v-if="asset.state === 'ready'"
            class="h-[22px] w-[34px] shrink-0 rounded-sm bg-ground object-cover"
            alt=""
            :src="partOf(asset.sha256, 'poster')"
          />
          <FileName class="min-w-0 flex-1 font-semibold" :name="nameOfTake(asset)" />
          <AssetStatus :asset="asset">
            <span
              v-if="takeFacts(asset).notes.length"
              class="shrink-0 font-bold text-brass"
              :aria-label="takeFacts(asset).notes.join(' ')"
              >!</span
            >
            <span class="num shrink-0 text-[11px] text-muted">{{ lengthOf(asset) }}</span>
          </AssetStatus>
        </button>
        <RouterLink
          v-if="asset.bundle"
          class="btn m-1 shrink-0 px-1.5!"
          :to="`/edits/${asset.bundle}`"
          :aria-label="`Open what ${nameOfTake(asset)} holds`"
          :title="aboutBundle(asset)"
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
    </div>
    <div class="shrink-0 px-3 pt-1 pb-2">
      <div class="grid grid-cols-[1fr_auto] gap-1">
        <button class="btn justify-center" title="Or drop them on the shelf" @click="pick()">
          <Plus :size="16" />Add files
        </button>
        <button class="btn" aria-label="Add a folder" title="All media of a folder" @click="folder?.click()">
          <FolderPlus :size="16" />
        </button>
      </div>
    </div>
  </aside>
</template>
