/** Kinds of cues: the shape that marks each besides its colour, and cues to pick from. */
import type { CueKind } from '@/api/client'
import type { PlacedCue } from '@/stores/edit'
import { kindName, LANDED_ON } from './terms'

export const option = <T extends string>(value: T) => ({ value, text: value })
export const kindOption = (value: CueKind) => ({ value, text: kindName(value) })

/** An SVG path in a 12 × 12 box for each kind. */
export const CUE_SHAPES: Record<CueKind, string> = {
  beat: 'M6 3a3 3 0 1 0 0 6a3 3 0 1 0 0-6z',
  downbeat: 'M6 1a5 5 0 1 0 0 10a5 5 0 1 0 0-10z',
  kick: 'M2 2h8v5l-4 4l-4-4z',
  snare: 'M2 2h8v8h-8z',
  hat: 'M5 1h2v10h-2z',
  bass: 'M1 8h10v3h-10z',
  note: 'M6 2l4 8h-8z',
  drop: 'M0 1h12l-6 11z',
  roll: 'M1 2h2v8h-2zM5 2h2v8h-2zM9 2h2v8h-2z',
  hand: 'M6 0l6 6l-6 6l-6-6z',
}

export const CUE_TOKENS: Record<CueKind, string> = {
  beat: 'ink-muted',
  downbeat: 'ink',
  kick: 'low',
  snare: 'mid',
  hat: 'mid',
  bass: 'low',
  note: 'real',
  drop: 'repeat',
  roll: 'high',
  hand: 'tie-ink',
}

const rank = ({ kind }: PlacedCue) => (LANDED_ON.includes(kind) ? LANDED_ON.indexOf(kind) : LANDED_ON.length)

/** The cue nearest to an instant of the edit; of those on its output frame the one that is meant. */
export function nearestCue(cues: PlacedCue[], time: number): PlacedCue | null {
  const away = (cue: PlacedCue) => Math.abs(cue.at - time)
  const nearest = cues.reduce<PlacedCue | null>(
    (best, cue) => (!best || away(cue) < away(best) ? cue : best),
    null,
  )
  const beside = cues.filter((cue) => cue.frame === nearest?.frame)
  return beside.sort((a, b) => rank(a) - rank(b))[0] ?? null
}

const OFFERED = 60

/** The cues nearest to an instant, and the one that is chosen, to pick from; a song has thousands. */
export function cueOptions(cues: PlacedCue[], time: number, chosen?: string | null) {
  const near = [...cues].sort((a, b) => Math.abs(a.at - time) - Math.abs(b.at - time)).slice(0, OFFERED)
  const kept = cues.find((cue) => cue.id === chosen)
  if (kept && !near.includes(kept)) near.push(kept)
  return near
    .sort((a, b) => a.at - b.at)
    .map((cue) => ({ value: cue.id, text: `${kindName(cue.kind)} ${cue.at.toFixed(3)} s` }))
}
