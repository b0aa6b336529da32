/** What things are called when a person reads them: never by an id. */
import type { Moment } from '@/api/client'

export const momentName = (moment: Moment | undefined): string =>
  moment ? moment.label || `${moment.kind ?? 'impact'} at frame ${moment.frame}` : 'a moment that is gone'

/** A file's name without its suffix. */
export const fileName = (name: string): string => name.replace(/(?<=.)\.[A-Za-z0-9]{1,5}$/, '')

const TAIL = 9

/** A long name in two parts, the first of which may be cut: an end that counts stays readable. */
export function halves(name: string): [string, string] {
  const cut = Math.max(0, name.length - TAIL)
  return name.length > 2 * TAIL && /\d/.test(name.slice(cut))
    ? [name.slice(0, cut), name.slice(cut)]
    : [name, '']
}

/** Tags as they are typed, one after another between commas. */
export const tagsIn = (text: string) =>
  text
    .split(',')
    .map((tag) => tag.trim())
    .filter(Boolean)
