/** A canvas that fills its box in device pixels and is drawn again when what it read has changed. */
import { useResizeObserver } from '@vueuse/core'
import { onScopeDispose, ref, watch, watchEffect, type Ref } from 'vue'
import { useLayout } from '@/stores/layout'

export type Draw = (context: CanvasRenderingContext2D, width: number, height: number) => void

export function useCanvas(
  canvas: Ref<HTMLCanvasElement | null>,
  draw: Draw,
): { width: Ref<number>; height: Ref<number>; paint: () => void; redraw: () => void } {
  const layout = useLayout()
  const width = ref(0)
  const height = ref(0)
  const again = ref(0)
  let request = 0

  useResizeObserver(canvas, ([entry]) => {
    width.value = entry?.contentRect.width ?? 0
    height.value = entry?.contentRect.height ?? 0
  })
  watch([width, height], () => {
    const target = canvas.value
    if (!target) return
    target.width = Math.round(width.value * devicePixelRatio)
    target.height = Math.round(height.value * devicePixelRatio)
  })

  /** Draw at once. */
  function paint(): void {
    const context = canvas.value?.getContext('2d')
    if (!context || !width.value) return
    context.setTransform(devicePixelRatio, 0, 0, devicePixelRatio, 0, 0)
    context.clearRect(0, 0, width.value, height.value)
    draw(context, width.value, height.value)
  }

  const stop = watchEffect(
    () => {
      void again.value
      void layout.theme
      paint()
    },
    { flush: 'post' },
  )
  onScopeDispose(() => {
    stop()
    cancelAnimationFrame(request)
  })

  /** Draw again in the next frame, for what is not reactive. */
  function redraw(): void {
    cancelAnimationFrame(request)
    request = requestAnimationFrame(() => (again.value += 1))
  }
  return { width, height, paint, redraw }
}
