/** Which desk is open, how the screen is divided, which keys are listened to: the same for all edits. */
import { useLocalStorage, useSessionStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { ref } from 'vue'

/** In the order in which one works. */
export const DESKS = ['music', 'takes', 'clip', 'montage'] as const
export type Desk = (typeof DESKS)[number]

const SIZES = {
  shelf: 212,
  details: 252,
  /** Height of the picture on each desk; 0: all that the rails leave. */
  picture: { clip: 0, music: 244, takes: 0, montage: 250 } as Record<Desk, number>,
}

export const useLayout = defineStore('layout', () => {
  const sizes = useLocalStorage('izmet-layout', SIZES, {
    mergeDefaults: (kept, own) => ({ ...own, ...kept, picture: { ...own.picture, ...kept.picture } }),
  })
  /** Single letters and signs act without a modifier (WCAG 2.1.4 asks for a way to turn that off). */
  const letterKeys = useLocalStorage('izmet-letter-keys', true)
  /** What the curve of a clip shows: its speed, or where in the take it stands. */
  const curve = useLocalStorage<'speed' | 'position'>('izmet-curve', 'speed')
  /** Whether the picture has all the room there is, for now. */
  const large = ref(false)
  /** The same after a reload, for as long as the tab is open. */
  const desk = useSessionStorage<Desk>('izmet-desk', 'clip')
  const theme = useLocalStorage<'dark' | 'light'>('izmet-theme', 'dark')
  return { desk, theme, sizes, large, letterKeys, curve, defaults: SIZES }
})
