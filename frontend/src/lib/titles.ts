/** Titles: what they say and how they come and go, and where they lie in the frame. */
import type { Derived, Schemas } from '@/api/client'
import type { Box } from '@/lib/composer'
import { LETTERS_MARGIN } from '@/lib/terms'

export type Title = Schemas['Lettering']
export type TitleChange = Omit<Schemas['ChangeTitle'], 'do' | 'title'>
export type Entrance = NonNullable<Title['comes']>
type Derivation = Derived['map']['titles'][number]

/** A title on one output frame: how much of it is seen, and how it lies beside its place. */
export interface Titled {
  id: string
  drawn: string
  opacity: number
  x: number
  y: number
  scale: number
  turn: number
}

/** The titles of an output frame, the lowest first. */
export function titlesOn(titles: Derivation[], n: number): Titled[] {
  return titles.flatMap(({ id, drawn, first, opacity, x, y, scale, turn }) => {
    const at = n - first
    if (!opacity[at]) return []
    return [{ id, drawn, opacity: opacity[at], x: x[at]!, y: y[at]!, scale: scale[at]!, turn: turn[at]! }]
  })
}

/** Where a title's picture lies in a frame of this size, so many dots of which are one of the edit's. */
export function lyingIn(title: Title, drawn: { width: number; height: number }, frame: Box, by: number): Box {
  const [w, h] = [drawn.width * by, drawn.height * by]
  const beside = w / 2 - LETTERS_MARGIN * (title.size ?? 0.12) * frame.h
  const along = { left: beside, middle: 0, right: -beside }[title.align ?? 'middle']
  const middle = frame.x + (title.across ?? 0.5) * frame.w + along
  return { x: middle - w / 2, y: frame.y + (title.down ?? 0.5) * frame.h - h / 2, w, h }
}

/** Ways to come; to go is the same the other way round. */
const STILL: Entrance = { frames: 8, x: 0, y: 0, scale: 1, turn: 0, fade: true, ease: 'soft' }
export const ENTRANCES: { value: string; text: string; way: Entrance }[] = [
  { value: 'at-once', text: 'At once', way: { ...STILL, frames: 0, fade: false } },
  { value: 'fade', text: 'Fade', way: STILL },
  { value: 'rise', text: 'From below', way: { ...STILL, y: 0.08 } },
  { value: 'left', text: 'From the left', way: { ...STILL, x: -0.25, ease: 'ease-out' } },
  { value: 'right', text: 'From the right', way: { ...STILL, x: 0.25, ease: 'ease-out' } },
  { value: 'near', text: 'From near', way: { ...STILL, scale: 2.5, ease: 'ease-out' } },
  { value: 'far', text: 'From afar', way: { ...STILL, scale: 0.4, ease: 'ease-out' } },
  { value: 'turn', text: 'Turning', way: { ...STILL, turn: -90, scale: 0.4, ease: 'ease-out' } },
]
/** What of a way tells it from others, however long it takes and along which course. */
const told = ({ x, y, scale, turn, fade }: Entrance) => [x, y, scale, turn, fade].join()
/** Which of these it is; null where none. */
export function entranceOf(way: Entrance | undefined): string | null {
  const whole = { ...STILL, ...way }
  if (!whole.frames) return 'at-once'
  return ENTRANCES.find(({ way }) => way.frames && told(way) === told(whole))?.value ?? null
}

/** Its first line, for lists. */
export const titleName = ({ text }: Title) => text.split('\n').find((line) => line.trim()) ?? ''
