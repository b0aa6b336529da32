/** One pointer drag, from press to release, wherever the pointer goes. */
export function drag(
  start: PointerEvent,
  move: (event: PointerEvent) => void,
  end: (moved: boolean, event: PointerEvent) => void,
): void {
  start.preventDefault()
  let moved = false
  const onMove = (event: PointerEvent) => {
    if (!moved && Math.hypot(event.clientX - start.clientX, event.clientY - start.clientY) < 3) return
    moved = true
    move(event)
  }
  const onEnd = (event: PointerEvent) => {
    window.removeEventListener('pointermove', onMove)
    window.removeEventListener('pointerup', onEnd)
    window.removeEventListener('pointercancel', onEnd)
    end(moved, event)
  }
  window.addEventListener('pointermove', onMove)
  window.addEventListener('pointerup', onEnd)
  window.addEventListener('pointercancel', onEnd)
}
