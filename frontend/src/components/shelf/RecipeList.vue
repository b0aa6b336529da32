<script setup lang="ts">
/** Recipes on the shelf: laid on the clip at hand, made from it, changed for all clips that they made. */
import { Download, RotateCw, Pencil, Trash2, WandSparkles } from '@lucide/vue'
import { computed, ref, shallowRef } from 'vue'
import type { Recipe } from '@/api/client'
import { useRecipes } from '@/composables/useRecipes'
import RecipeDialog from '@/components/RecipeDialog.vue'
import RowAction from '@/components/RowAction.vue'
import { useEdit } from '@/stores/edit'
import { useMontage } from '@/stores/montage'
import { useNotices } from '@/stores/notices'
import { useView } from '@/stores/view'

const edit = useEdit()
const view = useView()
const montage = useMontage()
const notices = useNotices()
const name = ref('')
/** The recipe that is being changed. */
const changing = shallowRef<Recipe | null>(null)
const picker = ref<HTMLInputElement | null>(null)

const { own, all: recipes } = useRecipes()
/** The tie around which a recipe is laid or measured: the selected one, else the clip's first. */
const pin = computed(() => {
  const selection = view.selection
  const pins = view.clip?.pins.filter((each) => each.moment && each.cue) ?? []
  return pins.find((each) => selection.kind === 'pin' && each.id === selection.pin) ?? pins[0]
})
const madeBy = (recipe: Recipe) => edit.clips.filter((clip) => clip.recipe === recipe.id).length

/** On the clip at hand, around its selected tie; on all clips that are chosen together, around their first. */
function apply(recipe: Recipe): void {
  const clip = view.clip
  if (montage.chosen.length > 1)
    void edit.run({ do: 'apply-recipe', recipe: recipe.id, clips: montage.chosen })
  else if (clip && pin.value)
    void edit.run({ do: 'apply-recipe', recipe: recipe.id, clips: [clip.id], pin: pin.value.id })
}

async function make(): Promise<void> {
  const clip = view.clip
  if (!clip || !pin.value || !name.value.trim()) return
  const made = {
    do: 'make-recipe',
    clip: clip.id,
    pin: pin.value.id,
    name: name.value.trim(),
    unit: 'seconds',
  } as const
  if (await edit.run(made)) name.value = ''
}

function save(recipe: Recipe): void {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(new Blob([JSON.stringify(recipe, null, 2)], { type: 'application/json' }))
  link.download = `${recipe.name}.recipe.json`
  link.click()
  URL.revokeObjectURL(link.href)
}

async function bring(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (!file) return
  try {
    await edit.run({ do: 'keep-recipe', recipe: JSON.parse(await file.text()) as Recipe })
  } catch {
    const remedy = 'Choose one that was saved from the shelf.'
    notices.problem({ code: 'not-a-recipe', what: 'This file is not a recipe.', where: file.name, remedy })
  }
}
</script>

<template>
  <section aria-label="Recipes">
    <h2 class="heading mt-1">Recipes</h2>
    <input
      ref="picker"
      class="hidden"
      type="file"
      accept=".json"
      aria-label="A recipe's file"
      @change="bring"
    />
    <div
      v-for="recipe in recipes"
      :key="recipe.id"
      class="group relative flex items-center rounded-md hover:bg-raised"
    >
      <button
        class="flex min-w-0 flex-1 items-center gap-2 px-1.5 py-1 text-left disabled:opacity-60"
        :disabled="!pin"
        :title="
          pin ? `Retime the clip at hand: ${recipe.name}` : 'Tie a moment first: a recipe is laid around it'
        "
        :aria-label="`Apply ${recipe.name}`"
        @click="apply(recipe)"
      >
        <WandSparkles :size="14" class="shrink-0 text-brass" aria-hidden="true" />
        <span class="min-w-0 flex-1 truncate">{{ recipe.name }}</span>
      </button>
      <span v-if="madeBy(recipe)" class="num px-2 text-[12px] text-muted" title="Clips made by it">{{
        madeBy(recipe)
      }}</span>
      <span
        class="absolute inset-y-0 right-0 flex rounded-r-md bg-raised opacity-0 group-hover:opacity-100 focus-within:opacity-100"
      >
        <RowAction
          v-if="madeBy(recipe)"
          :label="`${madeBy(recipe)} made by ${recipe.name}: apply it to them again`"
          @click="edit.run({ do: 'apply-recipe', recipe: recipe.id })"
        >
          <RotateCw :size="13" />
        </RowAction>
        <RowAction :label="`Save ${recipe.name} as a file`" @click="save(recipe)">
          <Download :size="13" />
        </RowAction>
        <template v-if="own.includes(recipe)">
          <RowAction :label="`Change ${recipe.name}`" @click="changing = recipe">
            <Pencil :size="13" />
          </RowAction>
          <RowAction
            :label="`Delete ${recipe.name}`"
            @click="edit.run({ do: 'remove-recipe', recipe: recipe.id })"
          >
            <Trash2 :size="13" />
          </RowAction>
        </template>
      </span>
    </div>
    <RecipeDialog :recipe="changing" @close="changing = null" />
    <details class="mt-1">
      <summary class="min-h-6 cursor-pointer text-muted">Make one</summary>
      <form class="mt-1 flex gap-1" @submit.prevent="make">
        <input
          v-model="name"
          class="field"
          aria-label="Name of the new recipe"
          placeholder="from this clip"
          maxlength="60"
        />
        <button class="btn" :disabled="!pin || !name.trim()">Make</button>
      </form>
      <button class="btn mt-1 w-full justify-center" @click="picker?.click()">From a file</button>
    </details>
  </section>
</template>
