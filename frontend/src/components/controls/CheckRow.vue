<script setup lang="ts">
/** Something that is so or not, by its name. */
defineProps<{ checked: boolean | undefined }>()
defineEmits<{ change: [checked: boolean] }>()
</script>

<template>
  <label class="flex items-center gap-2">
    <input
      type="checkbox"
      class="accent-brass"
      :checked="checked"
      @change="$emit('change', ($event.target as HTMLInputElement).checked)"
    />
    <slot />
  </label>
</template>
