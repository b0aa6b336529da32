/** The stretch of a take's frames that a rail shows: moved, zoomed, never beyond the take. */
import { ref, watch, type Ref } from 'vue'

const FEWEST_FRAMES = 8
/** A turn of the wheel by one pixel zooms by so much. */
const WHEEL = 1.0015

/** The frame ``at`` hand stays in view. */
export function useStretch(frames: Readonly<Ref<number>>, at: () => number) {
  const from = ref(0)
  const to = ref(1)

  function set(begin: number, end: number): void {
    const span = Math.min(frames.value, Math.max(FEWEST_FRAMES, end - begin))
    from.value = Math.max(0, Math.min(begin, frames.value - span))
    to.value = from.value + span
  }

  const all = () => set(0, frames.value)

  /** Show so many times as much around a frame, which stays where it is. */
  function zoom(factor: number, around: number): void {
    const part = (around - from.value) / (to.value - from.value)
    const span = Math.min(frames.value, Math.max(FEWEST_FRAMES, (to.value - from.value) * factor))
    set(around - part * span, around + (1 - part) * span)
  }

  /** The wheel over a frame zooms there; with Shift, or sideways, it goes along; ``scale`` is pixels a frame. */
  function wheel(event: WheelEvent, frame: number, scale: number): void {
    if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY)) {
      const by = ((event.deltaX || event.deltaY) / scale) * 0.5
      set(from.value + by, to.value + by)
    } else zoom(WHEEL ** event.deltaY, frame)
  }

  const holds = (frame: number) => frame >= from.value && frame <= to.value

  watch(at, (frame) => {
    const middle = frame + 0.5
    if (holds(middle)) return
    const span = to.value - from.value
    set(middle - span / 2, middle + span / 2)
  })

  return { from, to, set, all, zoom, wheel, holds }
}
