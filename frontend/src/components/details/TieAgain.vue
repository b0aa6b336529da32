<script setup lang="ts">
/** Ties a loose tie to the cue that is proposed for it. */
import type { Schemas } from '@/api/client'
import { kindName } from '@/lib/terms'
import { useEdit } from '@/stores/edit'

const props = defineProps<{ loose: Schemas['LooseTie'] }>()
const edit = useEdit()
const tie = () =>
  void edit.run({
    do: 'change-tie',
    clip: props.loose.clip,
    pin: props.loose.pin,
    cue: props.loose.proposed,
  })
</script>

<template>
  <button v-if="loose.proposed" class="btn justify-center" @click="tie">
    {{ kindName(edit.cueById.get(loose.proposed)?.kind) }}
    {{ edit.cueById.get(loose.proposed)?.at.toFixed(2) }} s
  </button>
</template>
