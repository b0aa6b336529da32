<script setup lang="ts">
/** Other edits, to be brought in as one take each; what is being made of one is told. */
import { Layers } from '@lucide/vue'
import { computed, onMounted, shallowRef } from 'vue'
import { api, take, type Schemas } from '@/api/client'
import PickList from '@/components/controls/PickList.vue'
import { progress } from '@/lib/format'
import { useEdit } from '@/stores/edit'
import { isActive, useLibrary } from '@/stores/library'
import { useNotices } from '@/stores/notices'

const edit = useEdit()
const library = useLibrary()
const notices = useNotices()
const others = shallowRef<Schemas['EditSummary'][]>([])
onMounted(async () => (others.value = (await notices.guard(take(api.GET('/api/edits'))))?.edits ?? []))

const choices = computed(() => [
  { value: '', text: 'Bring in an edit…' },
  ...others.value
    .filter((one) => one.id !== edit.id && one.clips > 0)
    .map((one) => ({ value: String(one.id), text: one.title })),
])
const chosen = computed({
  get: () => '',
  set: (id) => id && void edit.bundle({ edit: Number(id) }),
})
const making = computed(() =>
  library.jobs.find((job) => job.kind === 'bundle' && job.args.into === edit.id && isActive(job)),
)
</script>

<template>
  <p v-if="making" class="num flex items-center gap-1.5 text-brass" role="status">
    <Layers :size="14" aria-hidden="true" />
    <span class="truncate">{{ making.args.name }}: {{ making.total ? progress(making) : 'waiting…' }}</span>
  </p>
  <PickList
    v-if="choices.length > 1"
    v-model="chosen"
    label="Bring in an edit"
    hide-label
    :options="choices"
  />
</template>
