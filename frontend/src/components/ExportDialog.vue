<script setup lang="ts">
import { RadioGroup, RadioGroupOption } from '@headlessui/vue'
import { X } from '@lucide/vue'
import { computed, ref, watch } from 'vue'
import { api, type Schemas } from '@/api/client'
import CheckRow from '@/components/controls/CheckRow.vue'
import ChoiceRow from '@/components/controls/ChoiceRow.vue'
import NumberField from '@/components/controls/NumberField.vue'
import PickList from '@/components/controls/PickList.vue'
import DialogFrame from '@/components/DialogFrame.vue'
import ExportList from '@/components/ExportList.vue'
import LandingReport from '@/components/LandingReport.vue'
import { useExports } from '@/composables/useExports'
import { useWorkers } from '@/composables/useWorkers'
import { deliveryOf, SAME, useExportSettings, WEB_LUFS, type Asked } from '@/composables/useExportSettings'
import { counted, rate as rateSaid, withMinus } from '@/lib/format'
import { FORMATS, RATES } from '@/lib/terms'
import { useClipName } from '@/composables/useClipName'
import { useEdit } from '@/stores/edit'
import { isActive, useLibrary } from '@/stores/library'

const props = defineProps<{ open: boolean }>()
defineEmits<{ close: [] }>()
const edit = useEdit()
const library = useLibrary()
const nameOf = useClipName()
const { jobs } = useExports(() => props.open)
const { asked, kept, keep, letGo, use } = useExportSettings()
const QUALITIES: { value: Asked['quality']; text: string }[] = [
  { value: 'small', text: 'Small file' },
  { value: 'good', text: 'Good' },
  { value: 'best', text: 'Best' },
]
const chosen = computed(() => FORMATS.find(({ value }) => value === asked.value.format) ?? FORMATS[0]!)
const SIZES = ['1920×1080', '1080×1920', '1080×1080', '1080×1350', '3840×2160']
const SHAPES: Record<string, string> = {
  '1920×1080': '16:9',
  '1080×1920': '9:16',
  '1080×1080': '1:1',
  '1080×1350': '4:5',
  '3840×2160': '16:9',
}
const small = computed(() => (chosen.value.loops ? 'small, as a loop' : null))
const sizes = computed(() => [
  { value: SAME, text: small.value ?? `as the edit, ${edit.edit?.width}×${edit.edit?.height}` },
  ...SIZES.map((value) => ({ value, text: `${SHAPES[value]}, ${value}` })),
])
const rates = computed(() => [
  { value: SAME, text: small.value ?? `as the edit, ${rateSaid(edit.edit?.rate ?? '60')}` },
  ...RATES.map((value) => ({ value, text: rateSaid(value) })),
])
const LEVELS: { value: Asked['level']; text: string }[] = [
  { value: 'web', text: `For the web, ${withMinus(WEB_LUFS)} LUFS` },
  { value: 'mixed', text: 'As mixed' },
  { value: 'own', text: 'Other' },
]
const set = (values: Partial<Asked>) => (asked.value = { ...asked.value, ...values })
const said = computed(() => {
  const what = edit.edit?.range
    ? 'The range'
    : edit.derived?.end
      ? 'The edit up to its end'
      : 'The whole edit'
  if (!chosen.value.sound)
    return `${what}, without sound. In another shape the tracked points of ties stay in view.`
  return `${what}, with the music beneath. In another shape the tracked points of ties stay in view. The file is read back, and every landing is measured in it.`
})
/** The name under which the settings are kept. */
const name = ref('')
function keepNow(): void {
  if (!name.value.trim()) return
  keep(name.value.trim())
  name.value = ''
}

/** The export that is looked at: the one that was chosen, else the newest. */
const looked = ref<number | null>(null)
const job = computed(() => jobs.value.find(({ id }) => id === looked.value) ?? jobs.value[0])
const report = computed(() => job.value?.result as Schemas['ExportReport'] | null | undefined)
const busy = computed(() => !!job.value && isActive(job.value))
const part = computed(() => (job.value?.total ? job.value.done / job.value.total : undefined))
const { seen: workers, able } = useWorkers(() => props.open && busy.value)
const shared = computed(() => !!workers.value && workers.value.state !== 'alone')
const stage = computed(() => {
  if (job.value?.state === 'queued') return 'Waiting for its turn…'
  if (workers.value?.state === 'away') return 'Waiting for Redis…'
  if (workers.value?.store) return 'Waiting for the shared store…'
  if (shared.value && !able.value.length && part.value !== 1) return 'Waiting for a worker…'
  if (part.value === 1) return 'Measuring the landings in the file…'
  return job.value?.total ? `Frame ${job.value.done} of ${job.value.total}` : 'Starting…'
})

/** The button that ends an export goes away with it; the one that begins another has the focus then. */
const beginning = ref<HTMLButtonElement | null>(null)
watch(
  busy,
  (now) => {
    if (!now && document.activeElement === document.body) beginning.value?.focus()
  },
  { flush: 'post' },
)

/** The clips in the order in which they are seen, and how far the export has come among them. */
const shown = computed(() => {
  const map = edit.derived?.map
  const seen: string[] = []
  for (const clip of map?.clip ?? [])
    if (clip >= 0 && seen.at(-1) !== map!.clips[clip]) seen.push(map!.clips[clip]!)
  return seen
})
const at = computed(() => shown.value.indexOf(job.value?.doing ?? ''))
const clipSaid = computed(() =>
  at.value < 0 || part.value === 1
    ? ''
    : `Clip ${at.value + 1} of ${shown.value.length}: ${nameOf(shown.value[at.value]!)}`,
)

/** Whether one is being asked for: what was reported before is of another one. */
const starting = ref(false)
async function begin(): Promise<void> {
  const body: Schemas['NewExport'] = {
    revision: edit.state!.revision,
    ...deliveryOf(asked.value, chosen.value),
  }
  looked.value = null
  starting.value = true
  await library.start(api.POST('/api/edits/{id}/exports', { params: { path: { id: edit.state!.id } }, body }))
  starting.value = false
}
const cancel = () => library.cancel(job.value!)
const again = () => library.again(job.value!)
</script>

<template>
  <DialogFrame :open="open" title="Export" :width="720" @close="$emit('close')">
    <div class="-mx-1 min-h-0 overflow-y-auto px-1">
      <div v-if="kept.length" class="mt-3 flex flex-wrap gap-1" role="group" aria-label="Kept settings">
        <span v-for="each in kept" :key="each.name" class="flex items-stretch">
          <button class="btn rounded-r-none!" @click="use(each)">{{ each.name }}</button>
          <button
            class="btn rounded-l-none! border-l border-line px-1.5!"
            :aria-label="`Forget ${each.name}`"
            @click="letGo(each.name)"
          >
            <X :size="13" />
          </button>
        </span>
      </div>
      <RadioGroup
        :model-value="asked.format"
        class="mt-3 grid grid-cols-5 gap-2"
        aria-label="Format"
        @update:model-value="set({ format: $event })"
      >
        <RadioGroupOption
          v-for="one in FORMATS"
          :key="one.value"
          v-slot="{ checked }"
          :value="one.value"
          as="template"
        >
          <div
            class="cursor-pointer rounded-lg bg-raised px-3 py-2"
            :class="checked ? 'ring-2 ring-brass' : ''"
          >
            <p class="font-semibold">{{ one.name }}</p>
            <p class="text-[12px] text-muted">{{ one.note }}</p>
          </div>
        </RadioGroupOption>
      </RadioGroup>
      <div v-if="chosen.pictures" class="mt-3 grid grid-cols-3 items-end gap-2">
        <PickList
          label="Size"
          :model-value="asked.size"
          :options="sizes"
          @update:model-value="set({ size: $event })"
        />
        <PickList
          label="Frame rate"
          :model-value="asked.rate"
          :options="rates"
          @update:model-value="set({ rate: $event })"
        />
        <ChoiceRow
          v-if="chosen.qualities"
          class="grid-cols-3"
          label="Quality"
          :value="asked.quality"
          :options="QUALITIES"
          @change="set({ quality: $event })"
        />
      </div>
      <div v-if="chosen.sound" class="mt-3 grid grid-cols-[auto_1fr_9rem] items-center gap-2">
        <span class="text-muted" aria-hidden="true">Loudness</span>
        <ChoiceRow
          class="grid-cols-3"
          label="Loudness"
          :value="asked.level"
          :options="LEVELS"
          @change="set({ level: $event })"
        />
        <NumberField
          v-if="asked.level === 'own'"
          label="Loudness, LUFS"
          hide-label
          :min="-40"
          :max="-5"
          step="any"
          :digits="1"
          :value="asked.own"
          @change="set({ own: Math.min(-5, Math.max(-40, $event)) })"
        />
      </div>
      <div class="mt-2 grid grid-cols-[1fr_10rem_auto] items-center gap-2">
        <CheckRow
          :checked="asked.chapters"
          :class="chosen.pictures && chosen.sound ? '' : 'invisible'"
          @change="set({ chapters: $event })"
        >
          Chapters by the music's sections and drops
        </CheckRow>
        <input
          v-model="name"
          class="field"
          aria-label="Keep these settings as"
          placeholder="Keep these settings as"
          @keydown.enter="keepNow"
        />
        <button class="btn" :disabled="!name.trim()" @click="keepNow">Keep</button>
      </div>
      <p class="mt-2 text-muted">{{ said }}</p>
      <div class="mt-3 flex items-center gap-3">
        <button ref="beginning" class="btn btn-main" @click="begin">Export {{ chosen.name }}</button>
        <template v-if="busy">
          <progress class="h-2 flex-1" :value="part" aria-label="Export progress" />
          <span class="num w-64 text-muted" role="status">{{ stage }}</span>
          <a v-if="shared" href="/workers" target="_blank" class="btn">{{
            counted(able.length, 'worker')
          }}</a>
          <button class="btn" @click="cancel">Cancel</button>
        </template>
      </div>

      <div v-if="busy && shown.length > 1" class="mt-2" role="group" aria-label="Clips of the export">
        <div class="flex gap-px">
          <span
            v-for="(clip, index) in shown"
            :key="index"
            class="h-2 flex-1 rounded-sm"
            :class="index < at || part === 1 ? 'bg-brass' : index === at ? 'bg-brass/60' : 'bg-raised'"
            :title="nameOf(clip)"
          />
        </div>
        <p class="num mt-1 text-[12px] text-muted">{{ clipSaid }}</p>
      </div>

      <ExportList
        v-if="jobs.length > 1"
        class="mt-3"
        :jobs="jobs"
        :looked="job?.id ?? null"
        @look="looked = $event"
      />

      <section v-if="job?.state === 'failed'" role="alert" class="mt-4 rounded-md border border-bad p-3">
        <p class="font-semibold">{{ job.error?.what }}</p>
        <p class="text-muted">{{ job.error?.remedy }}</p>
        <button class="btn mt-2" @click="again">Try again</button>
      </section>
      <p v-else-if="job?.state === 'cancelled'" class="mt-4 text-muted">
        The export was cancelled; nothing was kept.
      </p>

      <LandingReport
        v-else-if="!starting && job?.state === 'done' && report"
        class="mt-4"
        :job="job"
        :report="report"
      />
    </div>
  </DialogFrame>
</template>
