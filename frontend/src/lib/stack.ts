/**
 * What an output frame shows: a picture that fills it or black, the layers over it, and the looks over all.
 *
 * Pictures that are seen together are layers too: each has as much of what is seen as its weight says.
 */
import type { Derived } from '@/api/client'

type DerivedClip = Derived['clips'][number]
/** Source frames that are seen together on an output frame, and what part each has; 1 in all. */
type Row = { source: number; weight: number }[]

/** A clip's picture: its source frame. */
export interface Shown {
  clip: string
  source: number
}
/** One picture of a stack, with what was fetched of it: the ground, or a layer over it. */
export interface Layered<P> {
  shown: P
  opacity: number
}
export interface Lit {
  kind: Derived['map']['looks'][number]['kind']
  values: Record<string, number>
}
export interface Stack<P> {
  ground: P | null
  layers: Layered<P>[]
  looks: Lit[]
}

/** What fills an output frame; null is black. */
export function groundOn(map: Derived['map'] | undefined, n: number): Shown | null {
  const index = n - (map?.first ?? 0)
  const clip = map?.clips[map.clip[index] ?? -1]
  return clip ? { clip, source: map!.source[index] ?? 0 } : null
}

/** The stack of an output frame; null before the first and after the last one. */
export function stackOn(
  map: Derived['map'] | undefined,
  clips: Map<string, DerivedClip>,
  n: number,
): Stack<Shown> | null {
  if (!map || n < map.first || n >= map.first + map.clip.length) return null
  const ground = groundOn(map, n)
  const mixed = ground && rowOn(clips.get(ground.clip), n)
  const [lowest, ...layers] = mixed ? spread(ground.clip, mixed, 1) : []
  for (const { clip, first, source, opacity } of map.layers) {
    const at = n - first
    if (!(at in source)) continue
    const row = rowOn(clips.get(clip), n) ?? [{ source: source[at]!, weight: 1 }]
    layers.push(...spread(clip, row, opacity[at]!))
  }
  const looks: Lit[] = []
  for (const { kind, first, values } of map.looks) {
    const now = Object.entries(values).map(([name, column]) => [name, column[n - first]] as const)
    if (now.every(([, value]) => value !== undefined))
      looks.push({ kind, values: Object.fromEntries(now) as Record<string, number> })
  }
  return { ground: lowest?.shown ?? ground, layers, looks }
}

/** What a clip shows together on an output frame; null where it is one picture. */
function rowOn(clip: DerivedClip | undefined, n: number): Row | null {
  if (!clip?.mix) return null
  const { first, sources, weights } = clip.mix
  const row = sources.map((column, index) => ({
    source: column[n - first] ?? 0,
    weight: weights[index]![n - first] ?? 0,
  }))
  const seen = row.filter(({ weight }) => weight > 0)
  return seen.length > 1 ? seen : null
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
export const picturesOf = <P>({ ground, layers }: Stack<P>): P[] => [
  ...(ground ? [ground] : []),
  ...layers.map(({ shown }) => shown),
]

/** The same stack with each picture replaced by what is known of it; null while one of them is not known. */
export function stackWith<P, Q>(stack: Stack<P>, find: (shown: P) => Q | null): Stack<Q> | null {
  const ground = stack.ground && find(stack.ground)
  if (stack.ground && !ground) return null
  const layers: Layered<Q>[] = []
  for (const { shown, opacity } of stack.layers) {
    const found = find(shown)
    if (!found) return null
    layers.push({ shown: found, opacity })
  }
  return { ground, layers, looks: stack.looks }
}
