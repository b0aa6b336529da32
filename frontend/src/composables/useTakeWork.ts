/** What can be done on the takes desk, by keys and by buttons: step, shuttle, jump, mark, select. */
import { onScopeDispose, ref, watch } from 'vue'
import type { Proposal } from '@/api/client'
import { useEdit } from '@/stores/edit'
import { useView } from '@/stores/view'
import type { useMeasures } from './useMeasures'
import { useTakeSound } from './useTakeSound'

/** Speeds of the shuttle, one further at each press; from rest it begins at the natural one. */
const SPEEDS = [-8, -4, -2, -1, -0.25, 0, 0.25, 1, 2, 4, 8]

export function useTakeWork({ proposals, guess }: ReturnType<typeof useMeasures>) {
  const edit = useEdit()
  const view = useView()
  /** How fast the shuttle runs, below 0 backwards; 0 rests. */
  const speed = ref(0)
  const point = ref<number | null>(null)
  useTakeSound(speed)
  let request = 0

  function run(): void {
    let at = view.takeFrame
    let last = performance.now()
    const tick = (now: number) => {
      at += view.takeClock.at((now - last) / 1000) * speed.value
      last = now
      const end = (view.take?.frames ?? 1) - 1
      view.lookAt(Math.floor(Math.max(0, Math.min(end, at))))
      if (at < 0 || at > end) speed.value = 0
      else request = requestAnimationFrame(tick)
    }
    request = requestAnimationFrame(tick)
  }
  watch(speed, (now, before) => {
    if (now === 0) cancelAnimationFrame(request)
    else if (before === 0) run()
  })
  watch(
    () => view.takeId,
    () => {
      speed.value = 0
      point.value = null
    },
  )
  onScopeDispose(() => cancelAnimationFrame(request))

  /** Faster one way, or slower where it runs the other way. */
  function shuttle(way: 1 | -1): void {
    const next = SPEEDS[SPEEDS.indexOf(speed.value) + way]
    speed.value = speed.value === 0 ? way : (next ?? speed.value)
  }

  const toggle = () => (speed.value = speed.value ? 0 : 1)

  function step(by: number): void {
    speed.value = 0
    view.lookAt(view.takeFrame + by)
  }

  function jump(frames: number[], way: 1 | -1): void {
    const sorted = [...frames].sort((a, b) => a - b)
    const next =
      way > 0
        ? sorted.find((frame) => frame > view.takeFrame)
        : sorted.reverse().find((frame) => frame < view.takeFrame)
    if (next === undefined) return
    speed.value = 0
    view.lookAt(next)
  }
  const toProposal = (way: 1 | -1) =>
    jump(
      proposals.value.map((proposal) => proposal.frame),
      way,
    )
  const toMoment = (way: 1 | -1) =>
    jump(
      (view.take?.moments ?? []).map((moment) => moment.frame),
      way,
    )

  const here = () => proposals.value.find((proposal) => proposal.frame === view.takeFrame)

  /** What is proposed becomes a moment, on its frame or on the one that is right. */
  function keep(proposal: Proposal, frame: number): void {
    if (view.take)
      void edit.run({
        do: 'add-moment',
        take: view.take.id,
        frame,
        kind: proposal.becomes,
        label: '',
        instead_of: frame === proposal.frame ? null : proposal.frame,
      })
  }

  function accept(proposal = here()): void {
    if (proposal) keep(proposal, proposal.frame)
  }

  function refine(): void {
    if (guess.value) keep(guess.value, view.takeFrame)
  }

  function dismiss(proposal = here()): void {
    if (proposal && view.take)
      void edit.run({ do: 'dismiss-proposal', take: view.take.id, frame: proposal.frame, again: false })
  }

  /** The first of the two points of a select, then the other: it is kept at once. */
  function setPoint(): void {
    const take = view.take
    if (!take) return
    if (point.value === null || point.value === view.takeFrame) {
      point.value = point.value === null ? view.takeFrame : null
      return
    }
    const [begin, end] = [Math.min(point.value, view.takeFrame), Math.max(point.value, view.takeFrame)]
    point.value = null
    void edit.run({ do: 'add-select', take: take.id, begin, end, name: '', tags: [] })
  }

  return {
    point,
    speed,
    shuttle,
    toggle,
    step,
    toProposal,
    toMoment,
    accept,
    refine,
    dismiss,
    setPoint,
  }
}

export type TakeWork = ReturnType<typeof useTakeWork>
