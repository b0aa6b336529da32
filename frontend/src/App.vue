<script setup lang="ts">
import { usePreferredColorScheme, useStorage } from '@vueuse/core'
import { watchEffect } from 'vue'
import NoticeList from '@/components/NoticeList.vue'
import { useView } from '@/stores/view'

const view = useView()
const preferred = usePreferredColorScheme()
const chosen = useStorage<'dark' | 'light' | ''>('izmet-theme', '')

view.theme = chosen.value || (preferred.value === 'light' ? 'light' : 'dark')
watchEffect(() => {
  document.documentElement.dataset.theme = view.theme
  chosen.value = view.theme
})
</script>

<template>
  <RouterView />
  <NoticeList />
</template>
