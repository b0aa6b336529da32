<script setup lang="ts">
/** A small button at the end of a row. */
defineProps<{ label: string }>()
defineEmits<{ click: [] }>()
</script>

<template>
  <button
    type="button"
    class="rounded p-1.5 text-muted hover:text-[var(--text)]"
    :aria-label="label"
    :title="label"
    @click="$emit('click')"
  >
    <slot />
  </button>
</template>
