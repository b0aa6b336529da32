/** The keys of a clip's framing, and the one at hand: that on the frame that is looked at, or the only one. */
import { computed, type Ref } from 'vue'
import type { Clip, Command } from '@/api/client'
import { kindName } from '@/lib/terms'
import { momentName } from '@/lib/names'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'

type Add = Extract<Command, { do: 'add-framing-key' }>
export type FramingValues = Partial<Pick<Add, 'x' | 'y' | 'scale' | 'turn' | 'ease'>>
type Key = NonNullable<NonNullable<Clip['framing']>['keys']>[number]
export interface PlacedKey extends Key {
  n: number
}

export function useFraming(clip: Ref<Clip>) {
  const edit = useEdit()
  const view = useView()
  const derived = computed(() => edit.derived?.map.framings.find((each) => each.clip === clip.value.id))
  const keys = computed<PlacedKey[]>(() =>
    (clip.value.framing?.keys ?? [])
      .flatMap((key) => {
        const n = derived.value?.keys[key.id]
        return n === undefined ? [] : { ...key, n }
      })
      .sort((a, b) => a.n - b.n),
  )
  const there = computed(() => keys.value.find(({ n }) => n === view.frame))
  /** While there is one key or none, all of the clip lies in one way. */
  const current = computed(() => there.value ?? (keys.value.length === 1 ? keys.value[0] : undefined))
  const isSet = computed(() => keys.value.length < 2 || !!current.value)

  /** What can be stood on at the frame that is looked at. */
  const places = computed(() => {
    const n = view.frame
    const cues = edit.cues.filter(({ frame }) => frame === n)
    const pins = edit.derivedById.get(clip.value.id)?.pins.filter((pin) => Math.round(pin.n) === n) ?? []
    const moments = pins.flatMap(({ id }) => {
      const moment = clip.value.pins.find((pin) => pin.id === id)?.moment
      return moment ? [edit.takeOf(clip.value.id)?.moments?.find((each) => each.id === moment)] : []
    })
    return [
      { value: 'n', text: `frame ${n}`, at: { n } },
      ...cues.map(({ id, kind, at }) => ({
        value: `cue ${id}`,
        text: `${kindName(kind)} ${at.toFixed(2)} s`,
        at: { cue: id },
      })),
      ...moments.flatMap((moment) =>
        moment ? { value: `moment ${moment.id}`, text: momentName(moment), at: { moment: moment.id } } : [],
      ),
    ]
  })
  /** A hit stays under its key when it moves, and so does a cue: the last of what can be stood on. */
  const here = computed(() => places.value.at(-1)!.at)

  /** The command that says how the picture lies: at the key at hand, all through, or on this frame. */
  function saying(values: FramingValues): Command {
    const key = current.value
    if (key) return { do: 'change-framing-key', clip: clip.value.id, key: key.id, ...values }
    const first = edit.derivedById.get(clip.value.id)?.first ?? 0
    const at = keys.value.length ? here.value : { n: first }
    return { do: 'add-framing-key', clip: clip.value.id, ...at, ...values }
  }
  const say = (values: FramingValues) => void edit.run(saying(values))
  const tryOut = (values: FramingValues) => void edit.dryRun(saying(values))
  const addHere = () => void edit.run({ do: 'add-framing-key', clip: clip.value.id, ...here.value })
  return { derived, keys, current, isSet, places, say, tryOut, addHere }
}
