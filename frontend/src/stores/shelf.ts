/** The takes on the shelf in the order that is shown: sought, sorted, and which of the edit's takes each is. */
import { useLocalStorage } from '@vueuse/core'
import { computed, ref } from 'vue'
import type { Asset, Take, TakeFacts } from '@/api/client'
import { frameClock } from '@/lib/frameClock'
import { useEdit } from './edit'
import { useLibrary } from './library'
import { forEdit } from './scope'

export const ORDERS = {
  new: 'newest first',
  name: 'by name',
  long: 'longest first',
  used: 'most used first',
}

export const useShelf = forEdit('shelf', () => {
  const edit = useEdit()
  const library = useLibrary()
  const sought = ref('')
  const order = useLocalStorage<keyof typeof ORDERS>('izmet-shelf-order', 'new')

  const takeOf = (asset: Asset) => edit.takes.find((take) => take.media.sha256 === asset.sha256)
  /** What a take is called: the edit may have another name for the file. */
  const nameOf = (asset: Asset) => takeOf(asset)?.media.name ?? asset.name
  const uses = (asset: Asset) => edit.clips.filter((clip) => clip.take === takeOf(asset)?.id).length
  const isSong = (asset: Asset) => edit.song?.media.sha256 === asset.sha256
  /** How long a take is, in seconds. */
  const lengthOf = ({ state, facts }: Asset) =>
    state === 'ready' ? frameClock((facts as TakeFacts).rate).time((facts as TakeFacts).frames) : 0

  function found(asset: Asset): boolean {
    const take = takeOf(asset)
    const words = [nameOf(asset), asset.name, ...(take?.tags ?? []), take?.notes ?? '']
    return words.join(' ').toLowerCase().includes(sought.value.trim().toLowerCase())
  }

  const sorted = computed(() => {
    // A bundle is on the shelf of the edits that hold it; another one brings it in as an edit.
    const shown = library.takes.filter((asset) => !asset.bundle || takeOf(asset))
    if (order.value === 'name') shown.sort((a, b) => nameOf(a).localeCompare(nameOf(b)))
    if (order.value === 'long') shown.sort((a, b) => lengthOf(b) - lengthOf(a))
    if (order.value === 'used') shown.sort((a, b) => uses(b) - uses(a))
    return shown
  })
  const takes = computed(() => sorted.value.filter(found))
  /** The edit's takes in that order; those whose files are not on the shelf come last. */
  const inOrder = computed<Take[]>(() => {
    const shown = sorted.value.flatMap((asset) => takeOf(asset) ?? [])
    return [...shown, ...edit.takes.filter((take) => !shown.includes(take))]
  })

  return { sought, order, takes, inOrder, takeOf, nameOf, uses, isSong, lengthOf }
})
