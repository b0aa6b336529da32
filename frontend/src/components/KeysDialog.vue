<script setup lang="ts">
import { Switch, SwitchGroup, SwitchLabel } from '@headlessui/vue'
import DialogFrame from '@/components/DialogFrame.vue'
import { CUE_KINDS, kindName } from '@/lib/terms'
import { useLayout } from '@/stores/layout'

defineProps<{ open: boolean }>()
defineEmits<{ close: [] }>()
const layout = useLayout()
const GROUPS = [
  {
    name: 'Playing',
    keys: [
      ['Space', 'play or pause'],
      ['← →', 'one output frame back or on; with Shift ten'],
      [', .', 'to the cue before or after'],
      ['C', 'hear cues as clicks'],
    ],
  },
  {
    name: 'Music',
    keys: [
      ['M', 'to the next desk'],
      ['O', 'between clip and montage'],
      ['T', 'set a cue at what is heard now'],
      ['1 2 3', 'hear each way to count, where the beat is not sure'],
      ['L', 'repeat the selected stretch, or play on'],
      ['A', 'select all cues in view'],
      ['← → on cues', 'nudge them 1 ms; with Shift a frame'],
      ['0 … 9 on cues', CUE_KINDS.map(kindName).join(', ')],
      ['J on cues', 'merge doubles'],
      ['Delete on cues', 'delete them'],
    ],
  },
  {
    name: 'Footage',
    keys: [
      ['[ ]', 'one source frame back or on; with Shift ten'],
      ['H', 'mark this frame as the impact'],
      ['← → on a moment', 'move it by a source frame'],
      ['Enter on a knob', 'tie it to the selected or nearest cue'],
      ['Delete on a tie', 'remove the tie'],
    ],
  },
  {
    name: 'Retiming',
    keys: [
      ['S D', 'more or less ramp in the chosen span'],
      ['B', 'keep this state as B'],
      ['Q held', 'see frames as they are in the take'],
      ['Y', 'split view: the take, then the edit without accents'],
      ['G', 'accents off and on'],
      ['V', 'between what it is now and B'],
      ['↑ ↓ on a handle', 'change its value; with Shift ten times'],
    ],
  },
  {
    name: 'On the takes desk',
    keys: [
      ['← →', 'one source frame; with Shift ten'],
      ['W E', 'play backward or forward, faster at each press'],
      ['N', 'to the next proposal; with Shift the one before'],
      ['Enter Delete', 'keep the proposal here, or drop it'],
      ['R', 'mark the proposal nearby here'],
      [', .', 'to the moment before or after'],
      ['I', 'begin a select, and end it'],
    ],
  },
  {
    name: 'Montage',
    keys: [
      ['( )', 'the range begins, ends here'],
      ['A', 'choose all clips of the range'],
      ['Ctrl C, Ctrl V', 'copy the chosen clips, lay them from the cue here on'],
      ['Delete', 'remove the chosen clips'],
      ['X J', 'split the clip here, join at the cut'],
      ['W', 'swap with the next clip; with Shift the one before'],
      ['[ ]', 'slip by a source frame; with Shift ten'],
      ['U I', 'slide earlier, later; with Shift ten frames'],
      ['K', 'black before the cut; with Shift after it'],
      ['Ctrl wheel', 'from the whole song to frames'],
    ],
  },
  {
    name: 'Edit',
    keys: [
      ['Ctrl Z', 'undo'],
      ['Ctrl Shift Z', 'redo'],
      ['+ − F', 'zoom in, zoom out, fit the clip'],
      ['Z', 'the picture large, and back'],
      ['Esc', 'select nothing'],
      ['/', 'this list'],
    ],
  },
]
</script>

<template>
  <DialogFrame :open="open" title="All keys" :width="760" @close="$emit('close')">
    <div class="min-h-0 overflow-y-auto">
      <div class="mt-3 columns-[20rem] gap-8">
        <section v-for="group in GROUPS" :key="group.name" class="break-inside-avoid pb-5">
          <h3 class="heading mb-1">{{ group.name }}</h3>
          <dl class="grid grid-cols-[auto_1fr] gap-x-4 gap-y-1">
            <template v-for="[key, what] in group.keys" :key="key">
              <dt class="num font-semibold text-brass">{{ key }}</dt>
              <dd>{{ what }}</dd>
            </template>
          </dl>
        </section>
      </div>
      <SwitchGroup as="div" class="mt-1 flex items-center gap-3 border-t border-line pt-3">
        <Switch v-model="layout.letterKeys" class="switch shrink-0" />
        <SwitchLabel>
          Single letters and signs are keys
          <span class="block text-muted">Off: only Space, arrows, Delete, Esc and keys with Ctrl act.</span>
        </SwitchLabel>
      </SwitchGroup>
    </div>
  </DialogFrame>
</template>
