/** What lies on one line of the sheet, and where: clips, cuts, blacks, what needs a look. */
import { computed, proxyRefs } from 'vue'
import type { DerivedClip } from '@/api/client'
import { BAND, CLIPS, STRIP } from '@/components/montage/sheet'
import { linear } from '@/lib/axis'
import { isLess } from '@/lib/rounding'
import { stable } from '@/lib/stable'
import { useEdit } from '@/stores/edit'
import { useMontage, type Line } from '@/stores/montage'
import { useView } from '@/stores/view'

export function useSheetLine(line: () => Line, width: () => number) {
  const edit = useEdit()
  const view = useView()
  const montage = useMontage()

  const wide = computed(() => Math.max(1, width()))
  const times = computed(() => linear(line().from, line().to, wide.value))
  const frames = computed(() => {
    const { at } = edit.clock
    return linear(at(line().from), at(line().to), wide.value)
  })
  /** The line in output frames. */
  const [from, to] = [() => edit.clock.at(line().from), () => edit.clock.at(line().to)]
  const holds = ({ n }: { n: number }) => n >= from() && n < to()
  /** Whether more than half a frame of it is on the line: a bar ends inside a frame. */
  const within = ({ first, source }: DerivedClip) =>
    first + source.length - 0.5 > from() && first + 0.5 < to()

  const clips = computed<DerivedClip[]>((old) => stable(old, (edit.derived?.clips ?? []).filter(within)))
  /** The clips that are seen where their names would stand. */
  const named = computed<string[]>((old) =>
    stable(
      old,
      clips.value
        .filter((clip) => view.shownOn(Math.max(clip.first, Math.ceil(from())))?.clip === clip.id)
        .map((clip) => clip.id),
    ),
  )
  const cues = computed(() => {
    const { from: begin, to: end } = line()
    return edit.cues.filter(({ at }) => !isLess(at, begin) && isLess(at, end))
  })
  const cuts = computed(() => montage.cuts.filter(holds))
  const troubles = computed(() => montage.troubles.filter(holds))
  const blacks = computed(() =>
    montage.blacks.filter((each) => each.to > line().from && each.from < line().to),
  )

  /** Left and right edge of a clip, as far as it is on the line. */
  const edges = ({ first, source }: DerivedClip): [number, number] => [
    Math.max(0, frames.value.x(first)),
    Math.min(width(), frames.value.x(first + source.length)),
  ]
  /** Where a stretch of the clips' row stands, for a style. */
  const box = ([left, right]: [number, number], least = 4) => ({
    left: `${left}px`,
    width: `${Math.max(least, right - left)}px`,
    top: `${CLIPS}px`,
    height: `${STRIP + BAND}px`,
  })
  // Unwrapped one level deep: what is drawn frame by frame must not go through proxies.
  return proxyRefs({
    line: computed(line),
    width: computed(width),
    times,
    frames,
    clips,
    named,
    cues,
    cuts,
    troubles,
    blacks,
    edges,
    box,
  })
}

export type SheetPlace = ReturnType<typeof useSheetLine>
