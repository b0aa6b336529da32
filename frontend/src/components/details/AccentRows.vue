<script setup lang="ts">
/** Some accents, one under the other; the one at hand with its values. */
import { computed } from 'vue'
import { accentName, placeSaid, type Accent } from '@/lib/accents'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'
import AccentFields from './AccentFields.vue'
import LaidRows from './LaidRows.vue'

const props = defineProps<{ accents: Accent[] }>()
const edit = useEdit()
const view = useView()
const laid = computed(() =>
  props.accents.map((each) => {
    const name = accentName(each.what.kind)
    const said = placeSaid(each.at, edit.song?.selections ?? [])
    return { ...each, name, said, called: name.toLowerCase() }
  }),
)
const byId = computed(() => new Map(props.accents.map((each) => [each.id, each])))
</script>

<template>
  <LaidRows
    v-slot="{ id }"
    v-model="view.accent"
    :laid="laid"
    @works="(id, works) => edit.run({ do: 'change-accent', accent: id, works })"
    @remove="edit.run({ do: 'remove-accent', accent: $event })"
  >
    <AccentFields class="mt-1" :accent="byId.get(id)!" />
  </LaidRows>
</template>
