/** The keys of a handle: arrows step it, Delete removes it, and what it takes goes no further. */
export interface HandleKeys {
  /** A step to the right or up is 1, to the left or down −1; far with Shift, and in which direction. */
  step: (by: number, far: boolean, along: 'across' | 'down') => void
  remove?: () => void
}

const STEPS: Record<string, number> = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }
const removes = ({ key }: KeyboardEvent) => key === 'Delete' || key === 'Backspace'

/** Whether a handle takes a key; what it takes goes no further. */
export function takesKey(event: KeyboardEvent, { remove }: HandleKeys): boolean {
  const taken = event.key in STEPS || (remove !== undefined && removes(event))
  if (taken) {
    event.preventDefault()
    event.stopPropagation()
  }
  return taken
}

export function handleKeys(event: KeyboardEvent, keys: HandleKeys): void {
  if (!takesKey(event, keys)) return
  const by = STEPS[event.key]
  if (by) keys.step(by, event.shiftKey, /Up|Down/.test(event.key) ? 'down' : 'across')
  else keys.remove?.()
}
