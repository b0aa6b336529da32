<script setup lang="ts">
/** Settings to begin a pulse with, on a choice of cues, for one clip or for many. */
import type { Clip, Command } from '@/api/client'
import PickList from '@/components/controls/PickList.vue'
import { useCueChoice } from '@/composables/useCueChoice'
import { counted } from '@/lib/format'
import { SETTINGS, type PulseValues } from '@/lib/pulses'
import { useEdit } from '@/stores/edit'
import { useNotices } from '@/stores/notices'
import PulsePicture from './PulsePicture.vue'

const props = defineProps<{ clips: Clip[]; heading?: boolean }>()
const edit = useEdit()
const notices = useNotices()
const { on, choices, onClip } = useCueChoice()

async function add(values: PulseValues): Promise<void> {
  const commands: Command[] = []
  for (const clip of props.clips) {
    const where = await onClip(clip.id)
    if (where.selection || where.cues?.length)
      commands.push({ do: 'add-pulse', clip: clip.id, ...where, values })
  }
  if (commands.length) await edit.runAll(commands)
  else notices.news('No such cue lies on the clip.')
}
</script>

<template>
  <details>
    <summary class="cursor-pointer leading-6" :class="heading ? 'heading' : 'text-muted'">Pulses</summary>
    <div class="mt-1 flex flex-col gap-2">
      <PickList v-model="on" label="On" :options="choices" />
      <p v-if="clips.length > 1" class="text-muted">On each of {{ counted(clips.length, 'clip') }}:</p>
      <div class="grid grid-cols-2 gap-1">
        <button
          v-for="setting in SETTINGS"
          :key="setting.name"
          class="btn flex-col items-start! gap-0.5 py-1.5!"
          :title="setting.what"
          :aria-label="`Pulse: ${setting.name}`"
          @click="add(setting.values)"
        >
          <PulsePicture :course="setting.course" />
          <span>{{ setting.name }}</span>
        </button>
      </div>
    </div>
  </details>
</template>
