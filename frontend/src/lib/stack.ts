/**
 * What an output frame shows: pictures over one another, the lowest first, looks over all, and titles over these.
 *
 * Pictures that are seen together are layers too: each has as much of what is seen as its weight says.
 */
import type { Derived } from '@/api/client'
import { HOWS } from '@/lib/terms'
import { titlesOn, type Titled } from '@/lib/titles'

type DerivedClip = Derived['clips'][number]
export type Mix = NonNullable<DerivedClip['mix']>
type Placing = Derived['map']['placings'][number]
/** Source frames that are seen together on an output frame, and what part each has; 1 in all. */
type Row = { source: number; weight: number }[]
export type How = 'as it is' | 'guarded' | 'blend' | 'still' | 'far' | 'blur' | 'draft' | 'fine'
/** Two source frames of a take, the earlier one first, and how far an instant is on the way to the later one. */
export interface Pair {
  first: number
  second: number
  part: number
}

/** A clip's picture: its source frame. */
export interface Shown {
  clip: string
  source: number
}
/** Where a picture is moved, grown and turned, and what of the frame it is seen in, in parts of the frame. */
export type Place = Record<Exclude<keyof Placing, 'first' | 'mask' | 'corners'>, number> &
  Pick<Placing, 'mask' | 'corners'>
type DerivedFramed = Derived['map']['framings'][number]
/** How the whole of a clip's picture is moved, grown and turned within its place. */
export type Framed = Record<'x' | 'y' | 'scale' | 'turn', number>
export type Keying = NonNullable<Derived['map']['layers'][number]['keying']>
export type Blend = Derived['map']['layers'][number]['blend']
/** A picture that another one is moved to, later in the take, and how far on the way it is, 0 to 1. */
export interface Toward<P> {
  shown: P
  part: number
}
/** One picture of a stack, with what was fetched of it; null is a plain colour. */
export interface Layered<P> {
  shown: P | null
  toward?: Toward<P>
  opacity: number
  place?: Place
  framed?: Framed
  keying?: Keying
  colour?: string
  blend?: Blend
}
export interface Lit {
  kind: Derived['map']['looks'][number]['kind']
  colour: string
  values: Record<string, number>
}
export interface Stack<P> {
  layers: Layered<P>[]
  looks: Lit[]
  titles: Titled[]
}

/** What fills an output frame; null is black. */
export function groundOn(map: Derived['map'] | undefined, n: number): Shown | null {
  const index = n - (map?.first ?? 0)
  const clip = map?.clips[map.clip[index] ?? -1]
  return clip ? { clip, source: map!.source[index] ?? 0 } : null
}

/** The stack of an output frame, with its accents and titles or without; null before the first and after the last one. */
export function stackOn(
  map: Derived['map'] | undefined,
  clips: Map<string, DerivedClip>,
  n: number,
  accents = true,
): Stack<Shown> | null {
  if (!map || n < map.first || n >= map.first + map.clip.length) return null
  const layers: Layered<Shown>[] = []
  const lay = ({ clip, source }: Shown, opacity: number, place?: Place, keying?: Keying) => {
    const mix = clips.get(clip)?.mix
    const lies = { place, framed: framedOn(map, clip, n), keying }
    const row = (mix && rowOn(mix, n)) ?? [{ source, weight: 1 }]
    const pair = mix && pairOn(mix, n)
    if (pair) {
      const [shown, other] = [pair.first, pair.second].map((source) => ({ clip, source }))
      layers.push({ shown: shown!, toward: { shown: other!, part: pair.part }, opacity, ...lies })
    } else layers.push(...spread(clip, row, opacity).map((each) => ({ ...each, ...lies })))
  }
  const ground = groundOn(map, n)
  if (ground) lay(ground, 1, map.placings.map((each) => placeOn(each, n)).find(Boolean))
  for (const layer of map.layers) {
    const { clip, first, source, opacity, placing, colour, blend, echo, accent, framed, keying } = layer
    const at = n - first
    if (!(at in source) || !opacity[at] || (accent && !accents)) continue
    const place = placing ? placeOn(placing, n) : undefined
    if (clip !== null && echo)
      layers.push({
        shown: { clip, source: source[at]! },
        opacity: opacity[at]!,
        blend,
        framed: framed ? framedAt(framed, n) : undefined,
      })
    else if (clip === null) layers.push({ shown: null, opacity: opacity[at]!, place, colour, blend })
    else lay({ clip, source: source[at]! }, opacity[at]!, place, keying ?? undefined)
  }
  const looks: Lit[] = []
  for (const { kind, first, values, colour } of accents ? map.looks : []) {
    const now = Object.entries(values).map(([name, column]) => [name, column[n - first]] as const)
    if (now.every(([, value]) => value !== undefined))
      looks.push({ kind, colour, values: Object.fromEntries(now) as Record<string, number> })
  }
  return { layers, looks, titles: accents ? titlesOn(map.titles, n) : [] }
}

/** What a clip shows together on an output frame; null where it is one picture. */
function rowOn({ first, sources, weights }: Mix, n: number): Row | null {
  const row = sources.map((column, index) => ({
    source: column[n - first] ?? 0,
    weight: weights[index]![n - first] ?? 0,
  }))
  const seen = row.filter(({ weight }) => weight > 0)
  return seen.length > 1 ? seen : null
}

/** Where a picture lies on an output frame; undefined on those that its placing is not on. */
function placeOn({ first, mask, corners, ...columns }: Placing, n: number): Place | undefined {
  const at = n - first
  if (!(at in columns.x)) return undefined
  const now = Object.entries(columns).map(([name, column]) => [name, column[at]])
  return { ...(Object.fromEntries(now) as Omit<Place, 'mask' | 'corners'>), mask, corners }
}

/** How a clip is framed on an output frame; undefined where it is not. */
export function framedOn(map: Derived['map'], clip: string, n: number): Framed | undefined {
  const framed = map.framings.find((each) => each.clip === clip)
  return framed && framedAt(framed, n)
}
function framedAt({ first, x, y, scale, turn }: DerivedFramed, n: number): Framed | undefined {
  const at = n - first
  if (!(at in x)) return undefined
  return { x: x[at]!, y: y[at]!, scale: scale[at]!, turn: turn[at]! }
}

/** What an output frame of a clip is made of. */
export const howOn = (mix: Mix | null, n: number): How => HOWS[mix?.how[n - mix.first] ?? 0]!

/** The two pictures that are moved to one another on an output frame; null where none are. */
export function pairOn(mix: Mix, n: number): Pair | null {
  const how = howOn(mix, n)
  if (how !== 'draft' && how !== 'fine') return null
  const row = rowOn(mix, n)?.sort((a, b) => a.source - b.source)
  return row ? { first: row[0]!.source, second: row[1]!.source, part: row[1]!.weight } : null
}

/** Pictures with these weights over what lies beneath, of all that has this opacity: one over the other. */
function spread(clip: string, row: Row, opacity: number): Layered<Shown>[] {
  let seen = 1 - opacity
  return row.map(({ source, weight }) => {
    seen += opacity * weight
    return { shown: { clip, source }, opacity: Math.min(1, (opacity * weight) / seen) }
  })
}

/** Every picture of a stack, from the ground up. */
export const picturesOf = <P>({ layers }: Stack<P>): P[] =>
  layers.flatMap(({ shown, toward }) => [...(shown ? [shown] : []), ...(toward ? [toward.shown] : [])])

/** The same stack with each picture replaced by what is known of it; null while one of them is not known. */
export function stackWith<P, Q>(stack: Stack<P>, find: (shown: P) => Q | null): Stack<Q> | null {
  const layers: Layered<Q>[] = []
  for (const layer of stack.layers) {
    const shown = layer.shown && find(layer.shown)
    const other = layer.toward && find(layer.toward.shown)
    if ((layer.shown && !shown) || (layer.toward && !other)) return null
    const toward = layer.toward && { ...layer.toward, shown: other! }
    layers.push({ ...layer, shown, toward })
  }
  return { ...stack, layers }
}
