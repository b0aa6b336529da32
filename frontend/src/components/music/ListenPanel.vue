<script setup lang="ts">
/** Listening closely, and tapping along: clicks, slow playing, the loop, how taps are taken. */
import { Switch, SwitchGroup, SwitchLabel } from '@headlessui/vue'
import { ref } from 'vue'
import NumberSlider from '@/components/controls/NumberSlider.vue'
import PickList from '@/components/controls/PickList.vue'
import { kindOption } from '@/lib/cues'
import { CUE_KINDS } from '@/lib/terms'
import { useListening, type Slowness } from '@/stores/listening'
import CalibrateDialog from './CalibrateDialog.vue'
import KindRows from './KindRows.vue'

const SPEEDS: { value: Slowness; text: string }[] = [
  { value: 1, text: 'Full' },
  { value: 2, text: 'Half' },
  { value: 4, text: 'Quarter' },
]
const listening = useListening()
const calibrating = ref(false)
const kinds = CUE_KINDS.map(kindOption)
</script>

<template>
  <div class="flex flex-col gap-3">
    <section class="flex flex-col gap-2" aria-label="Listening">
      <div role="radiogroup" aria-label="Speed" class="grid grid-cols-3 gap-1">
        <button
          v-for="speed in SPEEDS"
          :key="speed.value"
          role="radio"
          class="btn justify-center px-1!"
          :class="listening.slowness === speed.value ? 'ring-1 ring-brass' : ''"
          :aria-checked="listening.slowness === speed.value"
          @click="listening.setSlowness(speed.value)"
        >
          {{ speed.text }}
        </button>
      </div>
      <p v-if="listening.preparing" role="status" class="text-[12px] text-brass">
        Making the slow copy; full speed plays until it is ready.
      </p>
      <NumberSlider
        label="Clicks"
        unit="%"
        :scale="100"
        :value="listening.level"
        :min="0"
        :max="1"
        :step="0.01"
        @input="listening.level = $event"
        @change="listening.level = Math.max(0, Math.min(1, $event))"
      />
      <p class="text-[12px] text-muted">
        {{ listening.loop ? 'The marked stretch repeats.' : 'Drag along the ruler to repeat a stretch.' }}
        <button v-if="listening.loop" class="underline" @click="listening.loop = null">Play on</button>
      </p>
    </section>
    <section class="flex flex-col gap-2" aria-label="Lanes and their clicks">
      <h3 class="heading">Lanes and their clicks</h3>
      <KindRows />
    </section>
    <section class="flex flex-col gap-2" aria-label="Tapping">
      <h3 class="heading">Tapping</h3>
      <PickList v-model="listening.tap.kind" label="Each tap (T) makes a" :options="kinds" />
      <SwitchGroup as="div" class="flex items-center justify-between">
        <SwitchLabel>Draw to the attack</SwitchLabel>
        <Switch v-model="listening.tap.draw" class="switch" />
      </SwitchGroup>
      <NumberSlider
        v-if="listening.tap.draw"
        label="within"
        unit="ms"
        :scale="1000"
        :value="listening.tap.window"
        :min="0.01"
        :max="0.2"
        :step="0.005"
        @input="listening.tap.window = $event"
        @change="listening.tap.window = Math.max(0.01, Math.min(0.2, $event))"
      />
      <SwitchGroup as="div" class="flex items-center justify-between">
        <SwitchLabel>Replace what was there</SwitchLabel>
        <Switch v-model="listening.tap.replace" class="switch" />
      </SwitchGroup>
      <div class="flex items-center justify-between">
        <span class="num text-muted">{{ Math.round(listening.latency * 1000) }} ms late</span>
        <button class="btn" @click="calibrating = true">Calibrate</button>
      </div>
    </section>
    <CalibrateDialog :open="calibrating" @close="calibrating = false" />
  </div>
</template>
