<script setup lang="ts">
/** Have something set on the picture itself, until it is pressed again. */
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
    class="btn justify-center px-1.5! whitespace-nowrap"
    :class="onPicture.holds(tool) ? 'ring-1 ring-brass' : ''"
    :aria-pressed="onPicture.holds(tool)"
    @click="toggle"
  >
    <slot>On the picture</slot>
  </button>
</template>
