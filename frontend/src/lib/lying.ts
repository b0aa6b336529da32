/**
 * Where the points of a take's picture lie in the frame, and the way back; all in parts of width and height.
 *
 * A picture lies in the frame it fills, or is fitted into; all of it is framed there; and what is seen by then
 * is placed. Each of these grows and turns about the middle of the frame.
 */
import type { Clip } from '@/api/client'
import type { Framed, Place } from '@/lib/stack'

export interface Point {
  x: number
  y: number
}
/** The sides of a picture that is neither framed nor placed. */
export interface Lies {
  left: number
  top: number
  wide: number
  high: number
}

const EVERYWHERE: Lies = { left: 0, top: 0, wide: 1, high: 1 }

interface Sized {
  width: number
  height: number
}
/** A picture fills its frame as its clip says; one that is no clip's is fitted in. */
export function liesIn(frame: Sized, picture: Sized, clip?: Clip): Lies {
  const sides = [picture.width / frame.width, picture.height / frame.height] as const
  const by = clip?.fit === 'fill' ? Math.min(...sides) : Math.max(...sides)
  const [wide, high] = [sides[0] / by, sides[1] / by]
  return { left: (1 - wide) * (clip?.across ?? 0.5), top: (1 - high) * (clip?.down ?? 0.5), wide, high }
}

/** How a clip's picture is seen on an output frame; `sides` is the width of the frame over its height. */
export interface Lying {
  lies: Lies
  framed?: Framed
  place?: Place
  sides: number
}
/** A picture that is looked at by itself. */
export const WHOLE: Lying = { lies: EVERYWHERE, sides: 1 }

function turned({ x, y }: Point, turn: number, scale: number, sides: number): Point {
  const radians = (turn * Math.PI) / 180
  const [cos, sin] = [scale * Math.cos(radians), scale * Math.sin(radians)]
  return { x: x * cos - (y * sin) / sides, y: x * sides * sin + y * cos }
}
function brought(point: Point, to: Framed | undefined, sides: number): Point {
  if (!to) return point
  const off = turned({ x: point.x - 0.5, y: point.y - 0.5 }, to.turn, to.scale, sides)
  return { x: 0.5 + to.x + off.x, y: 0.5 + to.y + off.y }
}
function broughtBack(point: Point, from: Framed | undefined, sides: number): Point {
  if (!from) return point
  const off = { x: point.x - 0.5 - from.x, y: point.y - 0.5 - from.y }
  const back = turned(off, -from.turn, 1 / from.scale, sides)
  return { x: 0.5 + back.x, y: 0.5 + back.y }
}

/** Where in the frame a point of the picture is seen. */
export function seenAt(point: Point, { lies, framed, place, sides }: Lying): Point {
  const inFrame = { x: lies.left + point.x * lies.wide, y: lies.top + point.y * lies.high }
  return brought(brought(inFrame, framed, sides), place, sides)
}
/** Which point of the picture is seen there in the frame. */
export function readAt(point: Point, { lies, framed, place, sides }: Lying): Point {
  const inFrame = broughtBack(broughtBack(point, place, sides), framed, sides)
  return { x: (inFrame.x - lies.left) / lies.wide, y: (inFrame.y - lies.top) / lies.high }
}
