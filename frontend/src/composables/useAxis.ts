/** The two horizontal axes: output time (music rail and lanes) and source frames (picture rail). */
import { computed, type Ref } from 'vue'
import { linear, type Axis } from '@/lib/axis'
import { useView } from '@/stores/view'

export function useAxes(width: Ref<number>): { output: Ref<Axis>; source: Ref<Axis> } {
  const view = useView()
  return {
    output: computed(() => linear(view.from, view.to, width.value)),
    source: computed(() => linear(view.source.from, view.source.to, width.value)),
  }
}
