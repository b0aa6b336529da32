/** The horizontal axes: output time (music rail and lanes) in seconds and in frames, and source frames (picture rail). */
import { computed, type Ref } from 'vue'
import { linear, type Axis } from '@/lib/axis'
import { useEdit } from '@/stores/edit'
import { useLayout } from '@/stores/layout'
import { useView } from '@/stores/view'

/** Room for the names of lanes on the music desk. */
const NAMES = 96

interface Axes {
  output: Ref<Axis>
  frames: Ref<Axis>
  source: Ref<Axis>
  gutter: Ref<number>
}

export function useAxes(width: Ref<number>): Axes {
  const edit = useEdit()
  const view = useView()
  const layout = useLayout()
  const gutter = computed(() => (layout.desk === 'music' ? NAMES : 0))
  return {
    gutter,
    output: computed(() => linear(view.from, view.to, Math.max(1, width.value - gutter.value), gutter.value)),
    frames: computed(() => {
      const { at } = edit.clock
      return linear(at(view.from), at(view.to), Math.max(1, width.value - gutter.value), gutter.value)
    }),
    source: computed(() => linear(view.source.from, view.source.to, width.value)),
  }
}
