<script setup lang="ts">
/** A take on the shelf: its picture, its length, what is to know of it; a bundle opens what it holds. */
import { Layers } from '@lucide/vue'
import { computed } from 'vue'
import { partOf, type Asset, type TakeFacts } from '@/api/client'
import { counted, rate, seconds } from '@/lib/format'
import { useEdit } from '@/stores/edit'
import { useShelf } from '@/stores/shelf'
import { useView } from '@/stores/view'
import ShelfRow from './ShelfRow.vue'

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
  <ShelfRow
    :asset="asset"
    :name="name"
    :mine="mine"
    :used="shelf.uses(asset) > 0"
    :about="about"
    @choose="$emit('choose')"
  >
    <template #sign>
      <img
        v-if="facts"
        class="h-[22px] w-[34px] shrink-0 rounded-sm bg-ground object-cover"
        alt=""
        :src="partOf(asset.sha256, 'poster')"
      />
    </template>
    <template #facts>
      <span
        v-if="facts?.notes.length"
        class="shrink-0 font-bold text-brass"
        :aria-label="facts.notes.join(' ')"
        >!</span
      >
      <span class="num shrink-0 text-[11px] text-muted">{{ length }}</span>
    </template>
    <template #more>
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
    </template>
  </ShelfRow>
</template>
