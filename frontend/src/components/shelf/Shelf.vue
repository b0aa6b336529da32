<script setup lang="ts">
/** The files at hand: songs, takes, recipes, what is on its way here or missing. */
import { FolderPlus, Plus } from '@lucide/vue'
import { ref } from 'vue'
import PickList from '@/components/controls/PickList.vue'
import SongChangeDialog from '@/components/SongChangeDialog.vue'
import { useShelfWork, type Missing } from '@/composables/useShelfWork'
import { keyOf, useLibrary } from '@/stores/library'
import { ORDERS, useShelf } from '@/stores/shelf'
import BinList from './BinList.vue'
import BundleBar from './BundleBar.vue'
import FilePicker from './FilePicker.vue'
import MissingFiles from './MissingFiles.vue'
import ReadingQueue from './ReadingQueue.vue'
import RecipeList from './RecipeList.vue'
import ShelfSong from './ShelfSong.vue'
import ShelfTake from './ShelfTake.vue'
import UploadList from './UploadList.vue'

const library = useLibrary()
const shelf = useShelf()
const { otherSong, choose, put } = useShelfWork()
const dragging = ref(false)
const files = ref<InstanceType<typeof FilePicker> | null>(null)
const folder = ref<InstanceType<typeof FilePicker> | null>(null)
/** Of fewer takes nobody has to search. */
const FEW = 6
const orders = (Object.keys(ORDERS) as (keyof typeof ORDERS)[]).map((value) => ({
  value,
  text: ORDERS[value],
}))

/** What the next file that is picked replaces. */
let linking: Missing | null = null
function pick(missing: Missing | null = null): void {
  linking = missing
  files.value?.open()
}
function picked(found: File[]): void {
  put(found, linking)
  linking = null
}

function drop(event: DragEvent): void {
  dragging.value = false
  put([...(event.dataTransfer?.files ?? [])])
}
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
    <FilePicker ref="files" label="Files for the shelf" @pick="picked" />
    <FilePicker ref="folder" folder label="A folder for the shelf" @pick="put($event)" />

    <div class="flex min-h-0 flex-1 flex-col gap-2 overflow-y-auto p-3">
      <MissingFiles @link="pick" />
      <ReadingQueue />
      <h2 class="heading">Songs</h2>
      <ShelfSong v-for="asset in library.songs" :key="keyOf(asset)" :asset="asset" @choose="choose(asset)" />
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
      <ShelfTake v-for="asset in shelf.takes" :key="keyOf(asset)" :asset="asset" @choose="choose(asset)" />
      <BundleBar />
      <p v-if="!library.takes.length" class="text-muted">Then the footage: drop your takes here.</p>

      <RecipeList />
      <SongChangeDialog :song="otherSong" @close="otherSong = null" />
      <UploadList />
      <BinList />
    </div>
    <div class="grid shrink-0 grid-cols-[1fr_auto] gap-1 px-3 pt-1 pb-2">
      <button class="btn justify-center" title="Or drop them on the shelf" @click="pick()">
        <Plus :size="16" />Add files
      </button>
      <button class="btn" aria-label="Add a folder" title="All media of a folder" @click="folder?.open()">
        <FolderPlus :size="16" />
      </button>
    </div>
  </aside>
</template>
