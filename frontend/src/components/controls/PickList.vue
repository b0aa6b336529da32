<script setup lang="ts" generic="T extends string">
import { Listbox, ListboxButton, ListboxOption, ListboxOptions } from '@headlessui/vue'
import { Check, ChevronDown } from '@lucide/vue'
import { computed } from 'vue'

const props = defineProps<{
  label: string
  options: { value: T; text: string }[]
  up?: boolean
  hideLabel?: boolean
}>()
const value = defineModel<T>({ required: true })
const chosen = computed(() => props.options.find((option) => option.value === value.value)?.text ?? '–')
</script>

<template>
  <Listbox v-slot="{ open }" v-model="value" as="div" class="relative min-w-0">
    <span v-if="!hideLabel" class="mb-0.5 block text-muted" aria-hidden="true">{{ label }}</span>
    <ListboxButton
      class="field flex items-center justify-between gap-2 text-left"
      :aria-label="`${label}: ${chosen}`"
    >
      <span class="truncate">{{ chosen }}</span>
      <ChevronDown :size="14" class="shrink-0 text-muted" aria-hidden="true" />
    </ListboxButton>
    <ListboxOptions
      v-if="open"
      static
      class="absolute z-40 max-h-60 w-max min-w-full overflow-auto rounded-md border border-line bg-raised py-1 shadow-xl outline-none"
      :class="up ? 'bottom-full mb-1' : 'mt-1'"
    >
      <ListboxOption
        v-for="option in options"
        :key="option.value"
        v-slot="{ active, selected }"
        :value="option.value"
        as="template"
      >
        <li
          class="flex cursor-pointer items-center gap-2 px-2 py-1"
          :class="active ? 'bg-brass text-on-brass' : ''"
        >
          <Check :size="14" :class="selected ? '' : 'invisible'" aria-hidden="true" />
          <span class="whitespace-nowrap">{{ option.text }}</span>
        </li>
      </ListboxOption>
    </ListboxOptions>
  </Listbox>
</template>
