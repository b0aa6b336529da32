/**
 * Tries values while a slider is dragged, and asks ahead about those that the hand seems to be on its way to.
 * Its listeners are bound to the slider.
 */
import type { Command } from '@/api/client'
import { useEdit } from '@/stores/edit'

const DECIMALS = 6

export function useAttempts(saying: (value: number) => Command, value: () => number, step: () => number) {
  const edit = useEdit()
  let before: number | null = null
  const rounded = (values: number[]) => values.map((each) => saying(+each.toFixed(DECIMALS)))
  const beside = (at: number) => [at + step(), at - step()]
  return {
    pointerdown: () => void edit.foresee(...rounded(beside(value()))),
    input(now: number): void {
      const next = beside(now)
      if (before !== null && before !== now) next.unshift(2 * now - before)
      before = now
      void edit.dryRun(saying(now), ...rounded(next))
    },
  }
}
