/**
 * Where the curve of the clip at hand lies in a lane: its speed on a logarithmic axis, backwards below the line of
 * rest, or where in the take it stands.
 */
import { computed, shallowRef, type Ref } from 'vue'
import { useAxes } from '@/composables/useAxis'
import { speedAxis, type SpeedAxis } from '@/lib/speedAxis'
import { useCompare } from '@/stores/compare'
import { useLayout } from '@/stores/layout'
import { useView } from '@/stores/view'

export function useCurve(width: Ref<number>, height: number) {
  const view = useView()
  const layout = useLayout()
  const compare = useCompare()
  const { frames } = useAxes(width)
  const x = (n: number) => frames.value.x(n)

  /** The clip as it was in the state that is kept to compare with. */
  const other = computed(() => (compare.showing ? null : compare.clipOf.get(view.clip?.id ?? '')))
  const positions = computed(() => layout.curve === 'position')

  const fitted = computed(() => {
    const spans = (view.derivedClip?.spans ?? []).filter((span) => span.way !== 0)
    const floor = view.derivedClip?.floor || 1
    const low = Math.min(0.4, floor / 1.6, ...spans.map((span) => Math.max(0.06, span.lowest / 1.3)))
    // Pulses come on top of what spans say. A clip may have more frames than a call has arguments.
    let [slowest, fastest] = [0, 0]
    Array.prototype.forEach.call(view.derivedClip?.speed ?? [], (speed: number) => {
      slowest = Math.min(slowest, speed)
      fastest = Math.max(fastest, speed)
    })
    const pulsed = view.derivedClip?.pulses ? fastest : 0
    const high = Math.max(2.6, pulsed * 1.2, ...spans.map((span) => span.highest * 1.35))
    const backward = slowest < 0
    return speedAxis(low, high, height, backward)
  })
  /** The axis as it was when a handle was grabbed: under a hand that drags, it stands still. */
  const standing = shallowRef<SpeedAxis | null>(null)
  const speeds = computed(() => standing.value ?? fitted.value)

  /** Where in the lane a source position is drawn: all that the clip shows, and a little more. */
  const placeY = computed(() => {
    let least = Infinity
    let most = -Infinity
    for (const clip of [view.derivedClip, other.value])
      Array.prototype.forEach.call(clip?.source ?? [], (at: number) => {
        least = Math.min(least, at)
        most = Math.max(most, at)
      })
    const span = Math.max(1, most - least)
    return (at: number) => height - 10 - ((at - least) / span) * (height - 24)
  })

  const span = computed(() =>
    view.selection.kind === 'span' && view.selection.clip === view.clip?.id ? view.selection.span : null,
  )
  const bounds = computed(() => {
    const pins = view.derivedClip?.pins
    const [left, right] = [pins?.[span.value ?? -1], pins?.[(span.value ?? -1) + 1]]
    return left && right ? { left: x(left.n), right: x(right.n) } : null
  })

  /** The height of the curve at a place: where a speed is, or, in the position view, the curve itself. */
  function heightAt(px: number, speed: number): number {
    const clip = view.derivedClip
    if (!positions.value || !clip) return speeds.value.y(speed)
    const index = Math.round(frames.value.at(px)) - clip.first
    return placeY.value(clip.source[Math.max(0, Math.min(clip.source.length - 1, index))]!)
  }

  /** The span at a place, and which part of it lies there. */
  function under(px: number): { index: number; part: number } {
    const n = frames.value.at(px)
    const pins = view.derivedClip?.pins ?? []
    const index = pins.findIndex((pin, i) => i < pins.length - 1 && pin.n <= n && n < pins[i + 1]!.n)
    const [left, right] = [pins[index]?.n ?? 0, pins[index + 1]?.n ?? 1]
    return { index, part: (n - left) / (right - left) }
  }

  return { x, other, positions, standing, speeds, placeY, span, bounds, heightAt, under }
}

export type Curve = ReturnType<typeof useCurve>
