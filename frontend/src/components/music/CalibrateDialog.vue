<script setup lang="ts">
/** How late a person taps: ticks are heard, taps are counted, the middle of the delays is kept. */
import DialogFrame from '@/components/DialogFrame.vue'
import { useEventListener } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { audioClock, heardOn } from '@/composables/audio'
import { click } from '@/lib/clicks'
import { useListening } from '@/stores/listening'

const TICK_SECONDS = 0.6
const TICKS = 40
const NEEDED = 8

const props = defineProps<{ open: boolean }>()
const emit = defineEmits<{ close: [] }>()
const listening = useListening()
const delays = ref<number[]>([])
let begun = 0
let out: GainNode | null = null

const middle = computed(() => {
  const sorted = [...delays.value].sort((a, b) => a - b)
  return sorted[Math.floor(sorted.length / 2)] ?? 0
})

function start(): void {
  delays.value = []
  const audio = audioClock()
  out = new GainNode(audio, { gain: 0.6 })
  out.connect(audio.destination)
  begun = audio.currentTime + 0.4
  for (let tick = 0; tick < TICKS; tick += 1)
    click(audio, out, { kind: 'downbeat', level: 1, at: begun + tick * TICK_SECONDS })
}

function stop(): void {
  out?.disconnect()
  out = null
}

function tap(): void {
  const since = heardOn(audioClock()) - begun
  const away = since - Math.round(since / TICK_SECONDS) * TICK_SECONDS
  if (since > -TICK_SECONDS / 2) delays.value = [...delays.value, away]
}

function keep(): void {
  listening.latency = middle.value
  emit('close')
}

watch(
  () => props.open,
  (open) => (open ? start() : stop()),
)
useEventListener(
  'keydown',
  (event) => {
    if (!props.open || (event.key.toLowerCase() !== 't' && event.key !== ' ')) return
    event.preventDefault()
    event.stopPropagation()
    tap()
  },
  { capture: true },
)
</script>

<template>
  <DialogFrame :open="open" title="Calibrate your taps" :width="420" @close="$emit('close')">
    <div class="mt-3 flex flex-col gap-3">
      <p>Press T with every tick that you hear. After {{ NEEDED }} taps Izmet knows how late you are.</p>
      <p class="num text-[28px] font-semibold" role="status">
        {{ delays.length < NEEDED ? `${delays.length} of ${NEEDED}` : `${Math.round(middle * 1000)} ms` }}
      </p>
      <div class="flex justify-end gap-2">
        <button class="btn" @click="delays = []">Again</button>
        <button class="btn" @click="$emit('close')">Cancel</button>
        <button class="btn btn-main" :disabled="delays.length < NEEDED" @click="keep">Keep</button>
      </div>
    </div>
  </DialogFrame>
</template>
