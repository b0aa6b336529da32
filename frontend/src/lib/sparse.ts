/**
 * Of things that stand too close to be told apart, the weightiest: the indices of those kept, in order.
 *
 * @param places where each stands, in pixels
 * @param apart  how far those kept are from each other at least
 */
export function sparse(places: readonly number[], weights: readonly number[], apart: number): number[] {
  const kept = new Map<number, number>() // by cells as wide as the distance: only the next can be too close
  const tooClose = (place: number, cell: number) => {
    const other = kept.get(cell)
    return other !== undefined && Math.abs(places[other]! - place) < apart
  }
  const heaviest = [...places.keys()].sort((a, b) => weights[b]! - weights[a]!)
  for (const index of heaviest) {
    const place = places[index]!
    const cell = Math.floor(place / apart)
    if (![cell - 1, cell, cell + 1].some((each) => tooClose(place, each))) kept.set(cell, index)
  }
  return [...kept.values()].sort((a, b) => a - b)
}

/** Whether what is written at a place has so much room before the next of others. */
export const hasRoom = (place: number, others: readonly number[], room: number): boolean =>
  others.every((other) => other <= place || other - place > room)
