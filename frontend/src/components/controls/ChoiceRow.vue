<script setup lang="ts" generic="T extends string | number">
/** A few choices side by side, of which one holds; arrow keys go from one to the next. */
import { RadioGroup, RadioGroupOption } from '@headlessui/vue'

defineProps<{ label: string; value: T | undefined; options: readonly { value: T; text: string }[] }>()
defineEmits<{ change: [value: T] }>()
</script>

<template>
  <RadioGroup
    :model-value="value"
    class="grid gap-1 rounded-md bg-ground p-1"
    :aria-label="label"
    @update:model-value="$emit('change', $event)"
  >
    <RadioGroupOption
      v-for="option in options"
      :key="option.value"
      v-slot="{ checked }"
      :value="option.value"
      as="template"
    >
      <button
        class="min-h-6 min-w-6 rounded px-1.5 py-1 text-center text-[12px]"
        :class="checked ? 'bg-brass font-semibold text-on-brass' : 'hover:bg-raised'"
      >
        {{ option.text }}
      </button>
    </RadioGroupOption>
  </RadioGroup>
</template>
