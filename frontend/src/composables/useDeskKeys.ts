/** What each key does on the edit screen, wherever the focus is. */
import { useEventListener } from '@vueuse/core'
import type { Playback } from '@/composables/usePlayback'
import { useEdit } from '@/stores/edit'
import { useListening } from '@/stores/listening'
import { useMusic } from '@/stores/music'
import { useView } from '@/stores/view'

/** A cue this near to the playhead is the one that it stands on. */
const AFTER_SECONDS = 0.002

/** Whether what has the focus needs the key itself: a slider its arrows, a field all of them. */
function needs(target: HTMLElement, key: string): boolean {
  if (target.closest('[role=listbox], [role=dialog]')) return true
  if (!(target instanceof HTMLInputElement)) return false
  if (target.type === 'range') return /^(Arrow|Page|Home|End)/.test(key)
  return target.type !== 'checkbox' || key === ' '
}

interface Desk {
  playback: Playback
  tap: () => void
  markImpact: () => void
  showKeys: () => void
  /** Whether a dialog has the keys. */
  busy: () => boolean
}

export function useDeskKeys(desk: Desk): void {
  const edit = useEdit()
  const view = useView()
  const music = useMusic()
  const listening = useListening()

  function toCue(direction: 1 | -1): void {
    const cues = music.shown.filter((cue) => music.isChosen(cue.id))
    const next =
      direction > 0
        ? cues.find((cue) => cue.at > view.playhead + AFTER_SECONDS)
        : cues.reverse().find((cue) => cue.at < view.playhead - AFTER_SECONDS)
    if (!next) return
    if (music.desk === 'music') view.select({ kind: 'cues', cues: [next.id] })
    view.seek(next.at)
    if (next.at < view.from || next.at > view.to) view.pan(next.at - middle())
  }

  /** Repeat what the selected cues span, else what is in view; or stop repeating. */
  function toggleLoop(): void {
    const at = view.selectedCues.flatMap((id) => edit.cueById.get(id)?.at ?? [])
    const span = at.length > 1 ? { from: Math.min(...at), to: Math.max(...at) } : null
    listening.loop = listening.loop ? null : (span ?? { from: Math.max(0, view.from), to: view.to })
  }

  function selectShown(): void {
    const cues = music.shown
      .filter((cue) => cue.at >= view.from && cue.at <= view.to && music.isChosen(cue.id))
      .map((cue) => cue.id)
    if (cues.length) view.select({ kind: 'cues', cues })
  }

  const middle = () => (view.from + view.to) / 2
  const frames = (event: KeyboardEvent) => (event.shiftKey ? 10 : 1)
  const KEYS: Record<string, (event: KeyboardEvent) => void> = {
    ' ': () => desk.playback.toggle(),
    ArrowLeft: (event) => view.seekFrame(view.frame - frames(event)),
    ArrowRight: (event) => view.seekFrame(view.frame + frames(event)),
    '[': () => view.lookAt(view.takeFrame - 1),
    ']': () => view.lookAt(view.takeFrame + 1),
    '{': () => view.lookAt(view.takeFrame - 10),
    '}': () => view.lookAt(view.takeFrame + 10),
    ',': () => toCue(-1),
    '.': () => toCue(1),
    t: desk.tap,
    h: desk.markImpact,
    c: () => (listening.clicks = !listening.clicks),
    l: toggleLoop,
    m: () => (music.desk = music.desk === 'music' ? 'clip' : 'music'),
    a: selectShown,
    f: () => view.fit(),
    '+': () => view.zoom(1 / 1.5, middle()),
    '=': () => view.zoom(1 / 1.5, middle()),
    '-': () => view.zoom(1.5, middle()),
    '/': desk.showKeys,
    Escape: () => view.select({ kind: 'none' }),
  }

  useEventListener('keydown', (event) => {
    const target = event.target as HTMLElement
    if (target.matches('input') && ['Escape', 'Enter'].includes(event.key)) return target.blur()
    if (desk.busy() || needs(target, event.key)) return
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'z') {
      event.preventDefault()
      void (event.shiftKey ? edit.redo() : edit.undo())
      return
    }
    if (event.ctrlKey || event.metaKey || event.altKey) return
    const act = KEYS[event.key.length === 1 ? event.key.toLowerCase() : event.key]
    if (!act) return
    event.preventDefault() // Space on a focused button presses it, but play is what one means here.
    act(event)
  })
  useEventListener('keyup', (event) => event.key === ' ' && event.preventDefault())
}
