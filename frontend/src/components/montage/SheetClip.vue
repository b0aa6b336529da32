<script setup lang="ts">
/** One clip on the sheet: chosen alone, with others or up to it; dropped on another one, it is swapped with it. */
import { computed } from 'vue'
import type { DerivedClip } from '@/api/client'
import { useClipName } from '@/composables/useClipName'
import type { SheetPlace } from '@/composables/useSheetLine'
import { drag } from '@/lib/drag'
import { useEdit } from '@/stores/edit'
import { useLayout } from '@/stores/layout'
import { useMontage } from '@/stores/montage'

const props = defineProps<{ clip: DerivedClip; place: SheetPlace }>()
const edit = useEdit()
const layout = useLayout()
const montage = useMontage()
const nameOf = useClipName()

const mine = computed(() => montage.mine.includes(props.clip.id))
/** The clip that is about to come in this one's place. */
const coming = computed(() => {
  const { from, to } = montage.swapping ?? {}
  return from === props.clip.id ? to : to === props.clip.id ? from : undefined
})

function choose(event: MouseEvent): void {
  const more = event.ctrlKey || event.metaKey
  montage.choose(props.clip.id, event.shiftKey ? 'up to' : more ? 'more' : 'alone')
}

/** The clip under a pointer, other than this one. */
function under(at: PointerEvent): string | undefined {
  const there = document.elementsFromPoint(at.clientX, at.clientY)
  return (
    there.map((each) => each.getAttribute('data-clip')).find((id) => id && id !== props.clip.id) ?? undefined
  )
}

function carry(event: PointerEvent): void {
  if (event.shiftKey || event.ctrlKey || event.metaKey) return
  drag(
    event,
    (at) => {
      const to = under(at)
      montage.swapping = to ? { from: props.clip.id, to } : null
    },
    () => {
      const swap = montage.swapping
      montage.swapping = null
      if (swap) void edit.run({ do: 'swap-clips', clip: swap.from, other: swap.to })
    },
  )
}
</script>

<template>
  <button
    class="absolute flex items-start overflow-hidden px-1 text-left text-[11px] font-semibold text-white"
    :class="coming ? 'ring-4 ring-brass ring-inset' : mine ? 'bg-brass/25 ring-2 ring-brass ring-inset' : ''"
    :style="place.box(place.edges(clip))"
    :data-clip="clip.id"
    :aria-label="`Clip ${nameOf(clip.id)}`"
    :aria-pressed="mine"
    @pointerdown="carry"
    @click="choose"
    @dblclick="layout.desk = 'clip'"
  >
    <span v-if="place.named.includes(clip.id)" class="mt-0.5 truncate rounded bg-black/55 px-1">{{
      coming ? `⇄ ${nameOf(coming)}` : nameOf(clip.id)
    }}</span>
  </button>
</template>
