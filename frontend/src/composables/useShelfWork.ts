/** What files on the shelf are for: brought into the edit, put in place of missing ones, the music chosen. */
import { shallowRef } from 'vue'
import type { Asset } from '@/api/client'
import { frameClock } from '@/lib/frameClock'
import { rate } from '@/lib/format'
import { isMedia } from '@/lib/media'
import { isLess } from '@/lib/rounding'
import { RATES } from '@/lib/terms'
import { useEdit } from '@/stores/edit'
import { useLibrary } from '@/stores/library'
import { useNotices } from '@/stores/notices'
import { useShelf } from '@/stores/shelf'
import { useView } from '@/stores/view'

/** What a file replaces: the song, or a take by its id. */
export type Missing = string

export function useShelfWork() {
  const edit = useEdit()
  const library = useLibrary()
  const view = useView()
  const notices = useNotices()
  const { takeOf, isSong } = useShelf()
  /** The song that is offered in place of the one in use. */
  const otherSong = shallowRef<Asset | null>(null)

  const coming = new Map<string, Promise<boolean>>()
  /** Have a take in the edit, once: it may be on its way already when somebody chooses it. */
  function bringIn(asset: Asset): Promise<boolean> {
    if (takeOf(asset)) return Promise.resolve(true)
    const { sha256 } = asset
    const use = coming.get(sha256) ?? useTake(asset).finally(() => coming.delete(sha256))
    coming.set(sha256, use)
    return use
  }

  /** The first take of an edit asks whether the edit should go at its rate, where its pictures would repeat. */
  async function useTake(asset: Asset): Promise<boolean> {
    const isFirst = !edit.takes.length
    if (!(await edit.use(asset))) return false
    const take = takeOf(asset)
    const wanted = take && (RATES.includes(take.distinct) ? take.distinct : take.rate)
    const now = edit.edit?.rate ?? '60'
    const repeats = wanted && isLess(frameClock(wanted).rate, frameClock(now).rate)
    if (!isFirst || edit.clips.length || !repeats) return true
    notices.ask(`Match the edit to this take: ${rate(wanted)}?`, `At ${rate(now)} its pictures repeat.`, [
      { label: `Make the edit ${rate(wanted)}`, act: () => void edit.run({ do: 'configure', rate: wanted }) },
      { label: `Keep ${rate(now)}`, act: () => undefined },
    ])
    return true
  }

  async function choose(asset: Asset): Promise<void> {
    if (asset.state !== 'ready') return
    if (asset.kind === 'song') {
      if (isSong(asset)) return view.fit()
      // What hangs on cues is carried over line by line, not let go.
      if (edit.landings.length) return void (otherSong.value = asset)
      await edit.use(asset)
      view.fit()
      return
    }
    if (await bringIn(asset)) {
      view.choose(takeOf(asset)?.id ?? null)
      if (view.clip) view.fit()
    }
  }

  /** What a folder holds besides is not for the shelf; what is picked by itself is refused with a word. */
  const forShelf = (file: File) => !file.webkitRelativePath || isMedia(file.name)

  /** Files that were dropped or picked, in place of what is missing if anything. */
  function put(files: File[], missing: Missing | null = null): void {
    const meant = files.filter(forShelf)
    if (missing !== null && meant[0]) void link(meant[0], missing)
    else void bring(meant)
  }

  async function link(file: File, missing: Missing): Promise<void> {
    const asset = await library.upload(file, edit.isTake(missing) ? 'take' : 'song')
    if (asset) await edit.relink(asset.sha256, missing)
  }

  /** Bring all files into the edit as they are read; the first of its takes is looked at, once. */
  async function bring(files: File[]): Promise<void> {
    let looked = false
    const bringOne = async (file: File) => {
      const asset = await library.upload(file)
      if (!asset || (await edit.found(asset))) return
      if (asset.kind === 'song') return edit.song ? undefined : choose(asset)
      if (looked) return void (await bringIn(asset))
      looked = true
      await choose(asset)
    }
    await Promise.all(files.map(bringOne))
  }

  return { otherSong, choose, put }
}
