/**
 * Playing in laps: from where one starts to the end, or, with a loop, on through its stretch again and
 * again. The clock runs in heard seconds since the start; a slow copy makes them last longer.
 */
export interface Lap {
  /** Heard seconds since the start at which the lap begins. */
  since: number
  /** The stretch of the edit that it plays, in seconds. */
  from: number
  to: number
}

export interface Course {
  start: number
  end: number
  loop: { from: number; to: number } | null
  slowness: number
}

/** The lap with this number, from 0; null after the last. */
export function lapOf(course: Course, number: number): Lap | null {
  const { start, end, loop, slowness } = course
  const looping = loop !== null && start < loop.to
  const first: Lap = { since: 0, from: start, to: looping ? loop.to : end }
  if (number === 0) return first
  if (!looping) return null
  const length = (loop.to - loop.from) * slowness
  return { since: (first.to - first.from) * slowness + (number - 1) * length, from: loop.from, to: loop.to }
}

/** Which lap is heard after so many seconds, and where in the edit: the last lap's end when all is over. */
export function placeAt(course: Course, heard: number): { lap: number; time: number; over: boolean } {
  const first = lapOf(course, 0)!
  const firstLength = (first.to - first.from) * course.slowness
  if (heard < firstLength) return { lap: 0, time: first.from + heard / course.slowness, over: false }
  const second = lapOf(course, 1)
  if (!second) return { lap: 0, time: first.to, over: true }
  const length = (second.to - second.from) * course.slowness
  const lap = 1 + Math.floor((heard - firstLength) / length)
  const into = (heard - firstLength) % length
  return { lap, time: second.from + into / course.slowness, over: false }
}

/** A part of one block of sound, and when it is due in heard seconds since the start. */
export interface Piece {
  block: number
  since: number
  /** Where in the block it begins, and how long it is, in seconds. */
  offset: number
  duration: number
}

/** The pieces of blocks that a course plays at its own speed, in order, each handed out once. */
export function piecesOf(
  course: Course,
  blockSeconds: number,
  soundEnds: number,
): { until: (heard: number) => Generator<Piece> } {
  let number = 0
  let reached = course.start

  function* until(heard: number): Generator<Piece> {
    for (;;) {
      const lap = lapOf(course, number)
      if (!lap) return
      const end = Math.min(lap.to, soundEnds)
      if (reached >= end) {
        const next = lapOf(course, number + 1)
        if (!next || next.since > heard) return
        number += 1
        reached = next.from
        continue
      }
      const since = lap.since + reached - lap.from
      if (since > heard) return
      // A float's hair before the next block still belongs to the next block.
      const block = Math.floor(reached / blockSeconds + 1e-9)
      const to = Math.min(end, (block + 1) * blockSeconds)
      const offset = Math.max(0, reached - block * blockSeconds)
      yield { block, since, offset, duration: to - reached }
      reached = to
    }
  }
  return { until }
}
