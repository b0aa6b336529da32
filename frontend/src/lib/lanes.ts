/** Where each kind of cue is drawn on the music rail, and how. */
import type { CueKind, Section } from '@/api/client'
import { token } from '@/lib/colours'
import { CUE_SHAPES, CUE_TOKENS } from '@/lib/cues'
import type { PlacedCue } from '@/stores/edit'

export interface Lane {
  kinds: CueKind[]
  top: number
  height: number
}

const COMPACT = { upper: 2, lower: 20, height: 18 }
const SECTIONS_HEIGHT = { clip: 0, music: 16 }
const LANE = { least: 13, most: 18 }
/** From how many cues in view they are drawn as plain ticks. */
const MANY = 700
/** Pixels after the cue before it in its lane from which a cue's line runs through the wave. */
const LINE_ROOM = 12
const BEATS: CueKind[] = ['beat', 'downbeat']

/** On the clip desk hits share one row and beats the other; on the music desk each kind has its own. */
export function layLanes(desk: 'clip' | 'music', kinds: CueKind[], height: number): Lane[] {
  if (desk === 'clip') {
    const hits = kinds.filter((kind) => !BEATS.includes(kind))
    return [
      { kinds: hits, top: COMPACT.upper, height: COMPACT.height },
      { kinds: BEATS, top: COMPACT.lower, height: COMPACT.height },
    ]
  }
  const tall = Math.max(LANE.least, Math.min(LANE.most, (height * 0.5) / Math.max(1, kinds.length)))
  return kinds.map((kind, index) => ({
    kinds: [kind],
    top: SECTIONS_HEIGHT.music + index * tall,
    height: tall,
  }))
}

export const lanesEnd = (lanes: Lane[]) => Math.max(...lanes.map((lane) => lane.top + lane.height), 0) + 2

export interface CueLook {
  x: number
  selected: boolean
  chosen: boolean
  tied: boolean
}

export function drawLanes(
  context: CanvasRenderingContext2D,
  lanes: Lane[],
  cues: PlacedCue[],
  look: (cue: PlacedCue) => CueLook,
  bottom: number,
): void {
  const laneOf = new Map(lanes.flatMap((lane) => lane.kinds.map((kind) => [kind, lane] as const)))
  const many = cues.length > MANY
  const top = lanesEnd(lanes)
  /** The pixel last drawn in each lane: what falls on it again, where cues are dense, is not seen. */
  const drawn = new Map<Lane, number>()
  for (const cue of cues) {
    const lane = laneOf.get(cue.kind)
    if (!lane) continue
    const { x, selected, chosen, tied } = look(cue)
    const since = Math.round(x) - (drawn.get(lane) ?? -Infinity)
    if (many && !selected && !tied && since === 0) continue
    drawn.set(lane, Math.round(x))
    const middle = lane.top + lane.height / 2
    context.fillStyle = token(CUE_TOKENS[cue.kind])
    context.globalAlpha = !chosen ? 0.06 : tied || cue.kind === 'drop' ? 0.9 : 0.22
    if (tied || selected || cue.kind === 'drop' || since >= LINE_ROOM)
      context.fillRect(Math.round(x), top, tied ? 2 : 1, bottom - top)
    context.globalAlpha = chosen ? 1 : 0.25
    if (selected) {
      context.fillStyle = token('brass')
      context.fillRect(x - 7, lane.top, 14, lane.height)
      context.fillStyle = token('ink')
    }
    if (many) context.fillRect(x - 1, middle - 4, 2, 8)
    else drawShape(context, cue, x, middle, lane.height)
  }
  context.globalAlpha = 1
}

const PATHS = new Map<CueKind, Path2D>()

function drawShape(
  context: CanvasRenderingContext2D,
  cue: PlacedCue,
  x: number,
  y: number,
  tall: number,
): void {
  let path = PATHS.get(cue.kind)
  if (!path) PATHS.set(cue.kind, (path = new Path2D(CUE_SHAPES[cue.kind])))
  const scale = Math.min(1, tall / 14) * (0.6 + 0.4 * (cue.strength ?? 1))
  context.save()
  context.translate(x - 6 * scale, y - 6 * scale)
  context.scale(scale, scale)
  context.fill(path)
  if (cue.made === 'hand' && cue.kind !== 'hand') {
    context.strokeStyle = token('tie-ink')
    context.lineWidth = 2
    context.stroke(path)
  }
  context.restore()
}

const SECTION_TOKENS = { build: 'fast', break: 'slow', roll: 'high' } as const

/** Builds, breaks and rolls, named on the music desk, as thin lines elsewhere. */
export function drawSections(
  context: CanvasRenderingContext2D,
  sections: Section[],
  x: (time: number) => number,
  named: boolean,
): void {
  context.font = '600 10px "Inter Variable", sans-serif'
  for (const { kind, start, end } of sections) {
    const left = Math.max(0, x(start))
    const wide = Math.max(2, x(end) - left)
    if (x(end) < 0) continue
    context.fillStyle = token(SECTION_TOKENS[kind])
    if (!named) {
      context.fillRect(left, 0, wide, 2)
      continue
    }
    const [top, tall] = kind === 'roll' ? [11, 4] : [1, 14]
    context.globalAlpha = kind === 'roll' ? 0.9 : 0.35
    context.fillRect(left, top, wide, tall)
    context.globalAlpha = 1
    context.fillStyle = token('ink')
    if (kind !== 'roll' && wide > 34) context.fillText(kind, left + 4, 10)
  }
}
