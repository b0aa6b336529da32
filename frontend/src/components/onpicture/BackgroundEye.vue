<script setup lang="ts">
/** The colour of a background, picked where it is seen. */
import { computed } from 'vue'
import type { Clip } from '@/api/client'
import { pictures } from '@/composables/usePack'
import { useLying } from '@/composables/useLying'
import { useSeen } from '@/composables/useSeen'
import type { Box } from '@/lib/composer'
import { readAt, seenAt, type Point } from '@/lib/lying'
import { colourAt } from '@/lib/picking'
import { useEdit } from '@/stores/edit'
import { useNotices } from '@/stores/notices'
import { useOnPicture } from '@/stores/onPicture'
import { useView } from '@/stores/view'
import PictureEye from './PictureEye.vue'

const props = defineProps<{ clip: Clip; box: Box }>()
const edit = useEdit()
const view = useView()
const notices = useNotices()
const onPicture = useOnPicture()
const seen = useSeen()
const { lyingOf } = useLying()
const lying = computed(() => lyingOf(props.clip.id))
const START: Point = { x: 0.06, y: 0.06 }
const at = computed(() => onPicture.eye ?? (lying.value ? seenAt(START, lying.value) : START))

async function pick(to: Point): Promise<void> {
  onPicture.eye = to
  const layer = seen.on(view.frame)?.layers.find(({ shown }) => shown?.clip === props.clip.id)
  const sha256 = edit.takeOf(props.clip.id)?.media.sha256
  const bitmap = layer?.shown && sha256 ? await pictures.get(sha256, layer.shown.source) : null
  const colour = bitmap && lying.value && colourAt(bitmap, readAt(to, lying.value))
  if (colour) await edit.run({ do: 'key-out', clip: props.clip.id, colour })
  else notices.news('The inset is not seen there.')
}
</script>

<template>
  <PictureEye
    label="Colour of the background"
    :at="at"
    :box="box"
    @input="onPicture.eye = $event"
    @change="pick"
  />
</template>
