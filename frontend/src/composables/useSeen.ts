/** The pictures of an output frame's stack, from the takes' packs. */
import { flows } from '@/composables/useFlow'
import { pictures } from '@/composables/usePack'
import { lettering } from '@/composables/useLettering'
import { picturesOf, stackOn, stackWith, type Shown, type Stack } from '@/lib/stack'
import { useEdit } from '@/stores/edit'
import { useView, type SeenAs } from '@/stores/view'

/** A decoded picture, and the clip whose it is; none where a take is looked at by itself. */
export interface Seen {
  bitmap: ImageBitmap
  clip?: string
  /** Its source frame, of this file. */
  frame?: { sha256: string; source: number }
}

/** How two pictures move to one another, as far as that is known. */
export function flowBetween(first: Seen, second: Seen): ReturnType<typeof flows.ready> {
  if (!first.frame || !second.frame) return undefined
  return flows.ready(first.frame.sha256, { first: first.frame.source, second: second.frame.source })
}

const NO_MIXES = new Map<string, never>()

export function useSeen() {
  const edit = useEdit()
  const view = useView()

  function fileOf({ clip }: Shown): string | undefined {
    const take = edit.clipById.get(clip)?.take
    return edit.takes.find((other) => other.id === take)?.media.sha256 ?? undefined
  }

  function readyOf(shown: Shown): Seen | null {
    const sha256 = fileOf(shown)
    const bitmap = sha256 ? pictures.ready(sha256, shown.source) : null
    return bitmap && { bitmap, clip: shown.clip, frame: { sha256: sha256!, source: shown.source } }
  }

  /** The stack of an output frame, null outside the edit: as it is, each clip's frame as in its take, or without
   * accents. */
  const on = (n: number, as: SeenAs = view.seenAs) =>
    stackOn(edit.derived?.map, as === 'take' ? NO_MIXES : edit.derivedById, n, as === 'edit')
  /** The same with its pictures, if all of them are decoded already. */
  function ready(n: number, as: SeenAs = view.seenAs): Stack<Seen> | null {
    const stack = on(n, as)
    return stack && stackWith(stack, readyOf)
  }

  /** The same, with its pictures decoded when need be; null when one cannot be had. */
  async function get(n: number): Promise<Stack<Seen> | null> {
    const wanted = on(n)
    if (!wanted) return null
    const beside = view.split === null ? [] : picturesOf(on(n, view.beside)!)
    void flowing(n)
    const found = await Promise.all(
      [...picturesOf(wanted), ...beside].map((shown) => {
        const sha256 = fileOf(shown)
        return sha256 ? pictures.get(sha256, shown.source) : null
      }),
    )
    await Promise.all(wanted.titles.flatMap(({ id }) => letteringOf(id)?.drawing ?? []))
    return found.includes(null) ? null : stackWith(wanted, readyOf)
  }

  /** A title, and its picture as far as it is there. */
  function letteringOf(id: string) {
    const title = edit.titles.find((other) => other.id === id)
    const { width = 1280, height = 720 } = edit.edit ?? {}
    if (!title) return null
    const frame = { width, height }
    return { title, bitmap: lettering.ready(title, frame), drawing: lettering.get(title, frame) }
  }

  /** Have the motion of the pictures of an output frame looked for, and wait for it. */
  async function flowing(n: number): Promise<void> {
    const pairs = (on(n)?.layers ?? []).flatMap(({ shown, toward }) => {
      const sha256 = shown && toward && fileOf(shown)
      return sha256 ? flows.get(sha256, { first: shown.source, second: toward.shown.source }) : []
    })
    await Promise.all(pairs)
  }
  return { on, ready, get, flowing, letteringOf }
}
