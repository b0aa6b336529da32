<script setup lang="ts">
import { watchEffect } from 'vue'
import { useLayout } from '@/stores/layout'

const layout = useLayout()
watchEffect(() => (document.documentElement.dataset.theme = layout.theme))
</script>

<template>
  <RouterView :key="$route.path" />
</template>
