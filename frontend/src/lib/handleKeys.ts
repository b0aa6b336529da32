/** The keys of a handle: arrows step it, Delete removes it, and what it takes goes no further. */
export interface HandleKeys {
  /** A step to the right or up is 1, to the left or down −1; far with Shift. */
  step: (by: number, far: boolean) => void
  remove?: () => void
}

const STEPS: Record<string, number> = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }

export function handleKeys(event: KeyboardEvent, { step, remove }: HandleKeys): void {
  const by = STEPS[event.key]
  if (by) step(by, event.shiftKey)
  else if (remove && (event.key === 'Delete' || event.key === 'Backspace')) remove()
  else return
  event.preventDefault()
  event.stopPropagation()
}
