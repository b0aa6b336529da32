<script setup lang="ts">
/** Some laid sounds, one under the other; the one at hand with its values. */
import { computed } from 'vue'
import { placeSaid } from '@/lib/accents'
import { soundName, type Sound } from '@/lib/sounds'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'
import LaidRows from './LaidRows.vue'
import SoundFields from './SoundFields.vue'

const props = defineProps<{ sounds: Sound[] }>()
const edit = useEdit()
const view = useView()
const laid = computed(() =>
  props.sounds.map((each) => {
    const name = soundName(each)
    const said = placeSaid(each.at, edit.song?.selections ?? [])
    return { ...each, name, said, called: each.what.kind === 'made' ? name.toLowerCase() : `sound ${name}` }
  }),
)
const byId = computed(() => new Map(props.sounds.map((each) => [each.id, each])))
</script>

<template>
  <LaidRows
    v-slot="{ id }"
    v-model="view.sound"
    :laid="laid"
    @works="(id, works) => edit.run({ do: 'change-sound', sound: id, works })"
    @remove="edit.run({ do: 'remove-sound', sound: $event })"
  >
    <SoundFields class="mt-1" :sound="byId.get(id)!" />
  </LaidRows>
</template>
