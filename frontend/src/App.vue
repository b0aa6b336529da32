<script setup lang="ts">
import { useStorage } from '@vueuse/core'
import { watchEffect } from 'vue'
import NoticeList from '@/components/NoticeList.vue'
import { useView } from '@/stores/view'

const view = useView()
const chosen = useStorage<'dark' | 'light'>('izmet-theme', 'dark')

view.theme = chosen.value
watchEffect(() => {
  document.documentElement.dataset.theme = view.theme
  chosen.value = view.theme
})
</script>

<template>
  <RouterView :key="$route.path" />
  <NoticeList />
</template>
