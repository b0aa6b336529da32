/** Has the flow of the clip at hand worked out before it is seen: what is in view, from the playhead outwards. */
import { useDebounceFn } from '@vueuse/core'
import { watch } from 'vue'
import { flows } from '@/composables/useFlow'
import { pairOn } from '@/lib/stack'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'

const RESTS_MS = 250
/** Pairs that are looked for at a time. */
const MOST = 48

export function useFlowAhead(): void {
  const edit = useEdit()
  const view = useView()

  function ahead(): void {
    const mix = view.derivedClip?.mix
    const sha256 = view.take?.media.sha256
    if (!mix || !sha256) return
    const from = Math.max(mix.first, edit.clock.frame(view.from))
    const to = Math.min(mix.first + mix.how.length - 1, edit.clock.frame(view.to))
    const frames = Array.from({ length: Math.max(0, to - from + 1) }, (_, at) => from + at)
    frames.sort((a, b) => Math.abs(a - view.frame) - Math.abs(b - view.frame))
    let wanted = 0
    for (const n of frames) {
      const pair = pairOn(mix, n)
      if (!pair || flows.ready(sha256, pair) !== undefined) continue
      void flows.get(sha256, pair)
      if ((wanted += 1) === MOST) return
    }
  }

  const soon = useDebounceFn(ahead, RESTS_MS)
  watch(
    () => [view.derivedClip?.mix, view.from, view.to, view.frame, flows.idle.value],
    () => void soon(),
    { immediate: true },
  )
}
