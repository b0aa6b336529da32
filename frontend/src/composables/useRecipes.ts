/** All recipes: the edit's own, and those that come with the app. */
import { computed, onMounted, shallowRef } from 'vue'
import { api, take, type Recipe } from '@/api/client'
import { useEdit } from '@/stores/edit'
import { useNotices } from '@/stores/notices'

const shipped = shallowRef<Recipe[]>([])

export function useRecipes() {
  const edit = useEdit()
  const notices = useNotices()
  onMounted(async () => {
    if (shipped.value.length) return
    shipped.value = (await notices.guard(take(api.GET('/api/recipes'))))?.recipes ?? []
  })
  const own = computed(() => edit.edit?.recipes ?? [])
  const all = computed(() => [...own.value, ...shipped.value])
  return { own, all }
}
