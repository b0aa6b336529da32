<script setup lang="ts">
/** Everything about the music, beside the music desk: the beat, cue selections, listening, the song itself. */
import { Tab, TabGroup, TabList, TabPanel, TabPanels } from '@headlessui/vue'
import BeatPanel from './BeatPanel.vue'
import ListenPanel from './ListenPanel.vue'
import MixPanel from './MixPanel.vue'
import SelectPanel from './SelectPanel.vue'
import SongPanel from './SongPanel.vue'

const TABS = [
  { name: 'Beat', panel: BeatPanel },
  { name: 'Select', panel: SelectPanel },
  { name: 'Listen', panel: ListenPanel },
  { name: 'Mix', panel: MixPanel },
  { name: 'Song', panel: SongPanel },
]
</script>

<template>
  <TabGroup as="section" class="flex min-h-0 flex-col gap-3" aria-label="Music">
    <TabList class="grid grid-cols-5 gap-1 rounded-md bg-ground p-1">
      <Tab v-for="tab in TABS" :key="tab.name" v-slot="{ selected }" as="template">
        <button
          class="rounded px-1 py-1 text-[12px]"
          :class="selected ? 'bg-raised font-semibold' : 'text-muted'"
        >
          {{ tab.name }}
        </button>
      </Tab>
    </TabList>
    <TabPanels>
      <TabPanel v-for="tab in TABS" :key="tab.name" tabindex="-1"><component :is="tab.panel" /></TabPanel>
    </TabPanels>
  </TabGroup>
</template>
