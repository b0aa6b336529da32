/** How clips' pictures lie in the frame that is looked at. */
import { computed } from 'vue'
import { useSeen } from '@/composables/useSeen'
import { liesIn, WHOLE, type Lying } from '@/lib/lying'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'

export function useLying() {
  const edit = useEdit()
  const view = useView()
  const seen = useSeen()
  const sides = computed(() => (edit.edit?.width ?? 16) / (edit.edit?.height ?? 9))

  /** How a clip is seen on the frame at hand; null where it is not. */
  function lyingOf(clip: string): Lying | null {
    const [found, take] = [edit.clipById.get(clip), edit.takeOf(clip)]
    const layer = seen.on(view.frame)?.layers.find(({ shown }) => shown?.clip === clip)
    if (!found || !take || !layer) return null
    return {
      lies: liesIn({ width: sides.value, height: 1 }, take, found),
      framed: layer.framed,
      place: layer.place,
      sides: sides.value,
    }
  }

  /** Of a take: the frame of it that is looked at, and how that is seen; null where it is not. */
  function takeSeen(take: string): { frame: number; lying: Lying; clip: string | null } | null {
    if (view.looking === 'take')
      return view.takeId === take ? { frame: view.takeFrame, lying: WHOLE, clip: null } : null
    const layer = seen
      .on(view.frame)
      ?.layers.find(({ shown }) => shown && edit.clipById.get(shown.clip)?.take === take)
    const lying = layer?.shown && lyingOf(layer.shown.clip)
    return lying ? { frame: layer.shown!.source, lying, clip: layer.shown!.clip } : null
  }
  return { sides, lyingOf, takeSeen }
}
