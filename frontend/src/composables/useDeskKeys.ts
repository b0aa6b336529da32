/** What each key does on the edit screen, wherever the focus is. */
import { useEventListener } from '@vueuse/core'
import type { Playback } from '@/composables/usePlayback'
import { useCompare } from '@/stores/compare'
import { useEdit } from '@/stores/edit'
import { DESKS, useLayout } from '@/stores/layout'
import { useListening } from '@/stores/listening'
import { useMontage } from '@/stores/montage'
import { useMusic } from '@/stores/music'
import { useView } from '@/stores/view'
import { useMarking } from './useMarking'
import type { TakeWork } from './useTakeWork'

/** A cue this near to the playhead is the one that it stands on. */
const AFTER_SECONDS = 0.002

const MOVES = /^(Arrow|Page|Home|End)/
/** What is pressed with Space or Enter, and what moves with the arrow keys, when it has the focus. */
const PRESSED =
  'button, a[href], summary, select, input[type=checkbox], input[type=radio], ' +
  '[role=button], [role=radio], [role=switch], [role=tab]'
const MOVED =
  '[role=radio], [role=slider], [role=tab], [role=separator], input[type=range], input[type=radio]'

/** Whether what has the focus needs the key itself. */
function needs(target: HTMLElement, key: string): boolean {
  if (target.closest('[role=listbox], [role=dialog]')) return true
  if (target.closest(PRESSED) && (key === ' ' || key === 'Enter')) return true
  if (target.closest(MOVED)) return MOVES.test(key)
  if (!(target instanceof HTMLInputElement)) return false
  return target.type !== 'checkbox'
}

interface Desk {
  playback: Playback
  tap: () => void
  work: TakeWork
  zoomTake: (factor: number) => void
  fitTake: () => void
  showKeys: () => void
  /** Whether a dialog has the keys. */
  busy: () => boolean
}

export function useDeskKeys(desk: Desk): void {
  const edit = useEdit()
  const view = useView()
  const music = useMusic()
  const listening = useListening()
  const layout = useLayout()
  const compare = useCompare()
  const montage = useMontage()
  const { mark } = useMarking()

  function toCue(direction: 1 | -1): void {
    const cues = music.shown.filter((cue) => music.isChosen(cue.id))
    const next =
      direction > 0
        ? cues.find((cue) => cue.at > view.playhead + AFTER_SECONDS)
        : cues.reverse().find((cue) => cue.at < view.playhead - AFTER_SECONDS)
    if (!next) return
    if (layout.desk === 'music') view.select({ kind: 'cues', cues: [next.id] })
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
    h: () => mark('impact'),
    c: () => (listening.clicks = !listening.clicks),
    1: () => tryWay(0),
    2: () => tryWay(1),
    3: () => tryWay(2),
    l: toggleLoop,
    m: () => (layout.desk = DESKS[(DESKS.indexOf(layout.desk) + 1) % DESKS.length]!),
    b: () => void compare.keep(),
    v: compare.toggle,
    s: () => nudge('slower'),
    d: () => nudge('faster'),
    o: () => (layout.desk = layout.desk === 'montage' ? 'clip' : 'montage'),
    q: () => (view.unmixed = true),
    y: view.toggleSplit,
    g: () => (view.accented = !view.accented),
    z: () => (layout.large = !layout.large),
    a: selectShown,
    f: () => view.fit(),
    '+': () => view.zoom(1 / 1.5, middle()),
    '=': () => view.zoom(1 / 1.5, middle()),
    '-': () => view.zoom(1.5, middle()),
    '/': desk.showKeys,
    Escape: () => {
      listening.tried = null
      view.select({ kind: 'none' })
    },
  }

  /** Hear the beats of a way to count, and the music with them. */
  function tryWay(index: number): void {
    if (view.selectedCues.length) return // there the key says a kind
    music.tryWay(index)
    if (listening.tried && !desk.playback.stats.playing) desk.playback.toggle()
  }

  /** A little slower or faster in the span at hand; what lands goes on landing. */
  function nudge(way: 'slower' | 'faster'): void {
    const { selection } = view
    if (selection.kind === 'span')
      void edit.run({ do: 'nudge', clip: selection.clip, span: selection.span, way })
  }

  const { work } = desk
  const TAKE_KEYS: Record<string, (event: KeyboardEvent) => void> = {
    ' ': work.toggle,
    ArrowLeft: (event) => work.step(-frames(event)),
    ArrowRight: (event) => work.step(frames(event)),
    w: () => work.shuttle(-1),
    e: () => work.shuttle(1),
    n: (event) => work.toProposal(event.shiftKey ? -1 : 1),
    ',': () => work.toMoment(-1),
    '.': () => work.toMoment(1),
    Enter: () => work.accept(),
    r: work.refine,
    Delete: () => work.dismiss(),
    i: work.setPoint,
    f: desk.fitTake,
    '+': () => desk.zoomTake(1 / 1.6),
    '=': () => desk.zoomTake(1 / 1.6),
    '-': () => desk.zoomTake(1.6),
  }

  const byHand = (what: 'slip-clip' | 'slide-clip', by: number) => () =>
    void (view.clip && edit.run({ do: what, clip: view.clip.id, by }))
  const copy = () => (montage.copied = [...montage.mine])
  const paste = () => void montage.repeat(montage.copied)
  const MONTAGE_KEYS: Record<string, (event: KeyboardEvent) => void> = {
    '(': () => montage.setRange('since'),
    ')': () => montage.setRange('until'),
    Delete: () => void montage.remove(montage.mine),
    a: montage.chooseAll,
    x: montage.split,
    j: montage.join,
    w: (event) => montage.swapBeside(event.shiftKey ? -1 : 1),
    k: (event) => void montage.black(event.shiftKey ? 'after' : 'before'),
    '[': byHand('slip-clip', -1),
    ']': byHand('slip-clip', 1),
    '{': byHand('slip-clip', -10),
    '}': byHand('slip-clip', 10),
    u: (event) => byHand('slide-clip', event.shiftKey ? -10 : -1)(),
    i: (event) => byHand('slide-clip', event.shiftKey ? 10 : 1)(),
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
    if ((event.ctrlKey || event.metaKey) && layout.desk === 'montage') {
      const act = { c: copy, v: paste }[event.key.toLowerCase()]
      if (act) event.preventDefault()
      return act?.()
    }
    if (event.ctrlKey || event.metaKey || event.altKey) return
    const sign = event.key.length === 1 && event.key !== ' '
    if (sign && !layout.letterKeys) return
    const key = sign ? event.key.toLowerCase() : event.key
    const own = { takes: TAKE_KEYS, montage: MONTAGE_KEYS }[layout.desk as string]
    const act = own?.[key] ?? KEYS[key]
    if (!act) return
    event.preventDefault()
    // A button elsewhere would take the next Enter: whoever works on a take by keys is on the desk.
    if (layout.desk === 'takes' && key !== 'Enter' && target.closest(PRESSED) && !target.closest('#desk'))
      document.getElementById('desk')?.focus({ preventScroll: true })
    act(event)
  })
  const letGo = () => (view.unmixed = false)
  useEventListener('keyup', (event) => event.key.toLowerCase() === 'q' && letGo())
  useEventListener('blur', letGo)
  // A click with the mouse leaves the focus on a button, and Space would press it again where one means to
  // play. Whoever goes from button to button by keys keeps the focus there.
  useEventListener('click', (event) => {
    const button = (event.target as HTMLElement).closest('button')
    const byPointer = event.detail > 0
    if (byPointer && button && !button.closest('[role=dialog], [aria-haspopup]')) button.blur()
  })
}
