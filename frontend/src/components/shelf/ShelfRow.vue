<script setup lang="ts">
/** A file on the shelf: chosen by a click where it is ready, and what else can be done about it. */
import type { Asset } from '@/api/client'
import AssetStatus from '@/components/AssetStatus.vue'
import FileName from '@/components/FileName.vue'
import ShelfAction from './ShelfAction.vue'

defineProps<{ asset: Asset; name: string; mine: boolean; used: boolean; about?: string }>()
defineEmits<{ choose: [] }>()
defineSlots<{ sign(): unknown; facts(): unknown; more(): unknown }>()
</script>

<template>
  <div
    class="group relative -my-0.5 flex items-center rounded-md"
    :class="mine ? 'bg-raised ring-1 ring-brass' : 'hover:bg-raised'"
  >
    <button
      class="flex min-h-7 min-w-0 flex-1 flex-wrap items-center gap-x-1.5 px-1 text-left"
      :disabled="asset.state !== 'ready'"
      :aria-pressed="mine"
      :title="about"
      @click="$emit('choose')"
    >
      <slot name="sign" />
      <FileName class="min-w-0 flex-1 font-semibold" :name="name" />
      <AssetStatus :asset="asset"><slot name="facts" /></AssetStatus>
    </button>
    <slot name="more" />
    <ShelfAction :asset="asset" :used="used" />
  </div>
</template>
