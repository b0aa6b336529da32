<script setup lang="ts">
/** The stretch of the edit that is worked on: played, exported, filled, tidied up. */
import { computed } from 'vue'
import AccentWork from '@/components/details/AccentWork.vue'
import { useEdit } from '@/stores/edit'
import { useMontage } from '@/stores/montage'

const edit = useEdit()
const montage = useMontage()
const said = computed(() =>
  montage.range ? `${montage.range.from.toFixed(2)} to ${montage.range.to.toFixed(2)} s` : 'The whole edit',
)
</script>

<template>
  <div>
    <h3 class="heading flex justify-between gap-2">
      Range<span class="num font-normal text-muted">{{ said }}</span>
    </h3>
    <div class="mt-1 grid grid-cols-3 gap-1">
      <button class="btn justify-center px-1!" title="(" @click="montage.setRange('since')">From here</button>
      <button class="btn justify-center px-1!" title=")" @click="montage.setRange('until')">To here</button>
      <button class="btn justify-center px-1!" :disabled="!montage.range" @click="montage.clearRange()">
        All of it
      </button>
    </div>
    <AccentWork
      v-if="edit.edit?.range"
      class="mt-1"
      :at="{ to: 'range', stretch: edit.edit.range }"
      place="this range"
    />
  </div>
</template>
