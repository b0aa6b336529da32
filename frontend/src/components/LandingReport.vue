<script setup lang="ts">
/** What a finished export came to: where every tie landed, how loud it is, what may harm; and the file. */
import { CircleCheck, CircleX, Download, FileCheck2, Image, MessageSquare } from '@lucide/vue'
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { formatName, type Job } from '@/lib/exports'
import { counted, percent, signedMs, withMinus } from '@/lib/format'
import { frameClock } from '@/lib/frameClock'
import { canChoosePlace, saveFile } from '@/lib/saving'
import { FORMATS, kindName } from '@/lib/terms'
import { useEdit } from '@/stores/edit'
import { useNotices } from '@/stores/notices'
import { useView } from '@/stores/view'

const props = defineProps<{ job: Job; report: Schemas['ExportReport'] }>()
const edit = useEdit()
const notices = useNotices()
const view = useView()
const current = computed(() => props.job.args.revision === edit.state?.revision)
const format = computed(() => FORMATS.find(({ value }) => value === props.job.args.delivery?.format))
const said = computed(() => {
  const { all_exact, complete, frames, measured_frames, measured_sound } = props.report
  if (!complete) return `The file is incomplete: ${measured_frames} of ${counted(frames, 'frame')}`
  if (!format.value?.pictures) return `The sound is whole: ${measured_sound?.toFixed(2)} s`
  if (!format.value.sound) return `All pictures are there: ${counted(frames, 'frame')}`
  return all_exact ? 'Everything lands, measured in the file' : 'Not everything lands in the file'
})
const address = computed(() => `/api/jobs/${props.job.id}/file`)
const fileName = computed(() => `${edit.edit?.title ?? 'Izmet'}.${format.value?.ending ?? 'mp4'}`)
const saveAs = () =>
  saveFile(address.value, fileName.value).catch(() =>
    notices.problem({
      code: 'not-saved',
      what: 'The file could not be saved there.',
      remedy: 'Choose another place, or download it.',
    }),
  )
/** The picture at the playhead, as a part of all that the file shows: its rate may be another one. */
const poster = computed(() => {
  const { first_frame: first, frames, rate } = props.report
  const at = edit.clock.time(view.frame) * frameClock(rate).rate
  return `/api/jobs/${props.job.id}/poster?index=${Math.max(0, Math.min(frames - 1, Math.round(at) - first))}`
})
/** When the file flashes too often, by its own time. */
const flashes = computed(() => {
  const time = (n: number) => edit.clock.time(n - props.report.first_frame).toFixed(1)
  return props.report.flashing?.map(({ first, last }) => `${time(first)} to ${time(last)} s`).join(', ')
})
</script>

<template>
  <section aria-label="Landing report">
    <div class="flex flex-wrap items-center gap-2">
      <h3 class="w-full text-[15px] font-semibold" :class="report.all_exact ? 'text-good' : 'text-bad'">
        {{ said }}
      </h3>
      <a v-if="format?.pictures && format.sound" class="btn" :href="`/api/jobs/${job.id}/review`" download>
        <MessageSquare :size="16" />Review page
      </a>
      <a
        v-if="format?.pictures && format.sound"
        class="btn"
        :href="poster"
        title="The frame at the playhead"
        download
      >
        <Image :size="16" />Poster
      </a>
      <a v-if="report.landings.length" class="btn" :href="`/api/jobs/${job.id}/proof`" download>
        <FileCheck2 :size="16" />Proof page
      </a>
      <button v-if="canChoosePlace" class="btn" @click="saveAs">Save as…</button>
      <a class="btn btn-main ml-auto" :href="address" download>
        <Download :size="16" />Download
        {{ formatName(job) }}
      </a>
    </div>
    <p v-if="report.loudness != null" class="num mt-2 text-muted">
      {{ withMinus(report.loudness.toFixed(1)) }} LUFS, true peak
      {{ withMinus(report.true_peak?.toFixed(1) ?? '') }} dBTP, measured in the file
    </p>
    <p v-if="report.flashing?.length" role="alert" class="text-bad">
      It flashes more than three times within a second, which may harm: {{ flashes }}. Softer accents, or
      fewer cuts between bright and dark, help.
    </p>
    <p v-if="!current" class="text-muted">This file is of an earlier state of the edit.</p>
    <table v-if="report.landings.length" class="num mt-2 w-full text-[12px]">
      <thead class="text-left text-muted">
        <tr>
          <th class="py-1 font-medium">Tie</th>
          <th class="text-right font-medium">Cue</th>
          <th class="text-right font-medium">Frame</th>
          <th class="text-right font-medium">Measured</th>
          <th class="text-right font-medium">Off by</th>
          <th class="text-right font-medium">Audio offset</th>
          <th class="text-right font-medium">In</th>
          <th class="text-right font-medium">Out</th>
          <th class="text-right font-medium">Repeats</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(line, index) in report.landings" :key="index" class="border-t border-line">
          <td class="flex items-center gap-1.5 py-1 font-sans">
            <CircleCheck
              v-if="line.measured_frame === line.wanted_frame"
              :size="14"
              class="text-good"
              aria-label="lands"
            />
            <CircleX v-else :size="14" class="text-bad" aria-label="misses" />
            {{ line.label }} on {{ kindName(line.cue_kind) }}
          </td>
          <td class="text-right">{{ line.cue_time.toFixed(3) }} s</td>
          <td class="text-right">{{ line.wanted_frame }}</td>
          <td class="text-right">{{ line.measured_frame ?? '–' }}</td>
          <td class="text-right">{{ signedMs(line.measured_residual_ms) }}</td>
          <td class="text-right">{{ signedMs(line.sound_offset_ms) }}</td>
          <td class="text-right">{{ percent(line.speed_in) }}</td>
          <td class="text-right">{{ percent(line.speed_out) }}</td>
          <td class="text-right">{{ line.repeats_around || 'none' }}</td>
        </tr>
      </tbody>
    </table>
  </section>
</template>
