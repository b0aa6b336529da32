/** What is asked of exports: what was asked last, and what is kept by name; both on this machine. */
import { useLocalStorage } from '@vueuse/core'
import type { Schemas } from '@/api/client'
import { FORMATS } from '@/lib/terms'

type Delivery = Omit<Schemas['NewExport'], 'revision'>
export const SAME = 'same'
/** What most places on the web bring sound to: common practice. */
export const WEB_LUFS = -14

/** Settings as they are chosen; the size and the rate may be the edit's own. */
export interface Asked {
  format: Delivery['format']
  quality: NonNullable<Delivery['quality']>
  size: string
  rate: string
  level: 'web' | 'mixed' | 'own'
  own: number
  chapters: boolean
}
interface Kept {
  name: string
  asked: Asked
}
const USUAL: Asked = {
  ...{ format: 'mp4', quality: 'good', size: SAME, rate: SAME },
  ...{ level: 'web', own: -16, chapters: false },
}

/** What the server is asked. */
export function deliveryOf(asked: Asked, { sound }: (typeof FORMATS)[number]): Delivery {
  const { format, quality, chapters, level, own, size, rate } = asked
  const [width, height] = size === SAME ? [] : size.split('×').map(Number)
  const loudness = !sound || level === 'mixed' ? null : level === 'web' ? WEB_LUFS : own
  const rated = rate === SAME ? null : rate
  return { format, quality, chapters, loudness, width: width ?? null, height: height ?? null, rate: rated }
}

export function useExportSettings() {
  const asked = useLocalStorage<Asked>('izmet-export', USUAL, { mergeDefaults: true })
  const kept = useLocalStorage<Kept[]>('izmet-exports-kept', [])
  const without = (name: string) => kept.value.filter((each) => each.name !== name)
  function keep(name: string): void {
    kept.value = [...without(name), { name, asked: { ...asked.value } }]
  }
  function letGo(name: string): void {
    kept.value = without(name)
  }
  function use({ asked: settings }: Kept): void {
    asked.value = { ...USUAL, ...settings }
  }
  return { asked, kept, keep, letGo, use }
}
