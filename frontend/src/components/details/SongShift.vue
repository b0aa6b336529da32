<script setup lang="ts">
/** Cues lie between frames: the shift of the song, under half a frame, at which all ties fall closest. */
import { shallowRef, watch } from 'vue'
import { api, take, type Schemas } from '@/api/client'
import { useEdit } from '@/stores/edit'
import { useNotices } from '@/stores/notices'

/** A gain that nobody could see or hear is not offered. */
const LEAST_GAIN_MS = 0.3
const edit = useEdit()
const notices = useNotices()
const shift = shallowRef<Schemas['SongShift'] | null>(null)

watch(
  () => edit.state?.revision,
  async () => {
    if (!edit.state) return
    const asked = api.GET('/api/edits/{id}/shift', { params: { path: { id: edit.id } } })
    shift.value = (await notices.guard(take(asked)))?.shift ?? null
  },
  { immediate: true },
)
</script>

<template>
  <div v-if="shift && shift.before_ms - shift.after_ms > LEAST_GAIN_MS" class="rounded-md bg-raised p-2">
    <p class="num">
      Ties are {{ shift.before_ms.toFixed(1) }} ms off their cues, {{ shift.after_ms.toFixed(1) }} with the
      song {{ Math.abs(shift.by * 1000).toFixed(1) }} ms {{ shift.by > 0 ? 'later' : 'earlier' }}.
    </p>
    <button
      class="btn mt-1 w-full justify-center"
      @click="edit.run({ do: 'place-song', start: shift.start })"
    >
      Move the song by that
    </button>
  </div>
</template>
