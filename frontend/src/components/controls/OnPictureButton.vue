<script setup lang="ts">
/** Have something set on the picture itself, until it is pressed again. */
import { Crosshair } from '@lucide/vue'
import { useOnPicture, type Tool } from '@/stores/onPicture'
import { useView } from '@/stores/view'

const props = defineProps<{ tool: Tool }>()
const onPicture = useOnPicture()
const view = useView()
function toggle(): void {
  if (props.tool.kind !== 'point') view.looking = 'edit'
  onPicture.toggle(props.tool)
}
</script>

<template>
  <button
    class="btn justify-center"
    :class="onPicture.holds(tool) ? 'ring-1 ring-brass' : ''"
    :aria-pressed="onPicture.holds(tool)"
    @click="toggle"
  >
    <Crosshair :size="14" aria-hidden="true" />
    <slot>Set on the picture</slot>
  </button>
</template>
