/**
 * Focus follows the work: when what had it goes with a change, it goes to what has the same ``data-work``
 * now, such as the handle of a moment that was tied; else it stays where that was, not at the page's start.
 */
import { useEventListener } from '@vueuse/core'
import { nextTick, onScopeDispose, watch } from 'vue'
import { useEdit } from '@/stores/edit'

/** What takes the work over may be drawn some frames later. */
const PATIENCE_MS = 500

type Focusable = HTMLElement | SVGElement

export function useKeptFocus(): void {
  const edit = useEdit()
  /** What had the focus last, and all that it was in, the innermost first. */
  let chain: Focusable[] = []
  let request = 0

  useEventListener(document, 'focusin', ({ target }: FocusEvent) => {
    const found: Focusable[] = []
    for (let each = target as Element | null; each; each = each.parentElement) found.push(each as Focusable)
    chain = found
  })

  function keep(): void {
    const [last] = chain
    if (document.activeElement !== document.body || !last || last.isConnected) return
    const { work } = last.dataset
    goOnIn(chain.find((each) => each.isConnected && each !== document.body))
    if (work) seek(`[data-work="${CSS.escape(work)}"]`, performance.now() + PATIENCE_MS)
  }

  function goOnIn(left: Focusable | undefined): void {
    if (!left) return
    if (!left.hasAttribute('tabindex')) left.setAttribute('tabindex', '-1')
    left.focus({ preventScroll: true })
  }

  function seek(what: string, until: number): void {
    const found = document.querySelector<Focusable>(what)
    if (found) found.focus()
    else if (performance.now() < until) request = requestAnimationFrame(() => seek(what, until))
  }

  watch(
    () => edit.state,
    () => void nextTick(keep),
    { flush: 'post' },
  )
  onScopeDispose(() => cancelAnimationFrame(request))
}
