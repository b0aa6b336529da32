/** The two horizontal axes: output time (music rail and lanes) and source frames (picture rail). */
import { computed, type Ref } from 'vue'
import { useView } from '@/stores/view'

export interface Axis {
  x: (value: number) => number
  at: (x: number) => number
}

function linear(from: number, to: number, width: number): Axis {
  const scale = width / Math.max(1e-9, to - from)
  return { x: (value) => (value - from) * scale, at: (x) => from + x / scale }
}

export function useAxes(width: Ref<number>): { output: Ref<Axis>; source: Ref<Axis> } {
  const view = useView()
  return {
    output: computed(() => linear(view.from, view.to, width.value)),
    source: computed(() => linear(view.source.from, view.source.to, width.value)),
  }
}
