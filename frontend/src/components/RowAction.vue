<script setup lang="ts">
/** A small button at the end of a row, seen when the row is pointed at or the button has the focus. */
defineProps<{ label: string }>()
defineEmits<{ click: [] }>()
</script>

<template>
  <button
    class="rounded p-1.5 text-muted opacity-0 group-hover:opacity-100 focus-visible:opacity-100"
    :aria-label="label"
    :title="label"
    @click="$emit('click')"
  >
    <slot />
  </button>
</template>
