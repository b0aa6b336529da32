/** How other ways to count the beat go with the first one, in words. */
import type { Beats } from '@/api/client'

const RELATIONS = {
  double: 'Twice as fast',
  half: 'Half as fast',
  'off-beat': 'On the off-beat',
  'three-four': 'Three against four',
  other: 'Another tempo',
}
/** Tempos no further apart than this part are one. */
const SAME_TEMPO = 0.02

/** A name for each of some ways to count, in their order, the first as it was heard. */
export const wayNames = (ways: Beats[]) =>
  ways.map((way, i) => {
    if (i === 0) return 'As first heard'
    const isAlike = (other: Beats) =>
      other.relation === way.relation && Math.abs(other.tempo / way.tempo - 1) < SAME_TEMPO
    return RELATIONS[way.relation ?? 'other'] + (ways.slice(1, i).some(isAlike) ? ', shifted' : '')
  })
