<script setup lang="ts">
/** A take on the shelf: its picture, its length, what is to know of it; a bundle opens what it holds. */
import { Layers } from '@lucide/vue'
import { computed } from 'vue'
import { partOf, type Asset, type TakeFacts } from '@/api/client'
import AssetStatus from '@/components/AssetStatus.vue'
import FileName from '@/components/FileName.vue'
import { counted, rate, seconds } from '@/lib/format'
import { useEdit } from '@/stores/edit'
import { useShelf } from '@/stores/shelf'
import { useView } from '@/stores/view'
import ShelfAction from './ShelfAction.vue'

const props = defineProps<{ asset: Asset }>()
defineEmits<{ choose: [] }>()
const edit = useEdit()
const view = useView()
const shelf = useShelf()
const facts = computed(() => (props.asset.state === 'ready' ? (props.asset.facts as TakeFacts) : null))
const take = computed(() => shelf.takeOf(props.asset))
const name = computed(() => shelf.nameOf(props.asset))
const mine = computed(() => !!take.value && take.value.id === view.takeId)
/** Its length at a glance. */
const length = computed(() => seconds(shelf.lengthOf(props.asset)).slice(0, -4))
const bundle = computed(() => edit.state?.bundles[take.value?.id ?? ''])
/** All there is to say of it: its picture size too, how many moments and clips the edit has of it, what to know. */
const about = computed(() => {
  if (!facts.value) return undefined
  const { rate: native, width, height, notes } = facts.value
  return [
    `${name.value}: ${rate(native)}, ${length.value}, ${width}×${height}`,
    `${counted(take.value?.moments?.length ?? 0, 'moment')}, ${counted(shelf.uses(props.asset), 'clip')}`,
    ...(bundle.value === 'unknown' ? ['A bundle of an edit that is not here, so it cannot be updated'] : []),
    ...notes,
  ].join('. ')
})
</script>

<template>
  <div
    class="group relative -my-0.5 flex items-center rounded-md"
    :class="mine ? 'bg-raised ring-1 ring-brass' : 'hover:bg-raised'"
  >
    <button
      class="flex min-h-7 min-w-0 flex-1 flex-wrap items-center gap-x-1.5 px-1 text-left"
      :disabled="!facts"
      :aria-pressed="mine"
      :title="about"
      @click="$emit('choose')"
    >
      <img
        v-if="facts"
        class="h-[22px] w-[34px] shrink-0 rounded-sm bg-ground object-cover"
        alt=""
        :src="partOf(asset.sha256, 'poster')"
      />
      <FileName class="min-w-0 flex-1 font-semibold" :name="name" />
      <AssetStatus :asset="asset">
        <span
          v-if="facts?.notes.length"
          class="shrink-0 font-bold text-brass"
          :aria-label="facts.notes.join(' ')"
          >!</span
        >
        <span class="num shrink-0 text-[11px] text-muted">{{ length }}</span>
      </AssetStatus>
    </button>
    <RouterLink
      v-if="asset.bundle"
      class="btn m-1 shrink-0 px-1.5!"
      :to="`/edits/${asset.bundle}`"
      :aria-label="`Open what ${name} holds`"
      :title="
        bundle === 'behind' ? 'A bundle, out of date: open what it holds' : 'A bundle: open what it holds'
      "
    >
      <Layers :size="13" />
    </RouterLink>
    <ShelfAction :asset="asset" :used="shelf.uses(asset) > 0" />
  </div>
</template>
