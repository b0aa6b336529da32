/** What is being set on the picture itself: one thing at a time. */
import { ref } from 'vue'
import type { Point } from '@/lib/lying'
import { forEdit } from './scope'

export type Tool =
  | { kind: 'framing' | 'inset' | 'background' | 'reveal'; clip: string }
  | { kind: 'point'; take: string; track: string | null }
  | { kind: 'accent'; accent: string }
  | { kind: 'title'; title: string }

const same = (one: Tool | null, other: Tool) => JSON.stringify(one) === JSON.stringify(other)

export const useOnPicture = forEdit('on-picture', () => {
  const tool = ref<Tool | null>(null)
  /** Where the eye is that picks a colour; null before it was moved. */
  const eye = ref<Point | null>(null)

  const holds = (one: Tool) => same(tool.value, one)
  function toggle(one: Tool): void {
    tool.value = holds(one) ? null : one
    eye.value = null
  }
  function close(): void {
    tool.value = null
  }
  return { tool, eye, holds, toggle, close }
})
