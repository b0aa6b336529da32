/**
 * How pictures of takes move to one another: told by the server for two at a time, and kept.
 *
 * Nothing waits for it: until it is there, a blend is drawn. What is asked for first comes first.
 */
import { ref } from 'vue'
import { bytes, flowOf } from '@/api/client'
import { Budget } from '@/lib/budget'
import { AGAIN_MS } from '@/lib/news'
import { pairFlow, TWO_SCENES, type PairFlow } from '@/lib/pairFlow'
import type { Pair } from '@/lib/stack'

const BYTES = 48 << 20
const SIDE_BY_SIDE = 2
/** What is looked for after so many others is not looked at any more. */
const LONGEST_QUEUE = 64

type Found = PairFlow | typeof TWO_SCENES
type Frames = Pick<Pair, 'first' | 'second'>
interface Asked {
  /** The address of the answer, which is also what it is kept under. */
  key: string
  told: (() => void)[]
}

const kept = new Budget<{ flow: Found }>(BYTES)
const waiting = new Map<string, Asked>()
const running = new Set<string>()
/** What could not be had: it may be there later, and need not be asked for all the while. */
const missed = new Set<string>()
/** How many were told so far: what shows which are there watches it. */
const count = ref(0)
const idle = ref(true)

function pump(): void {
  while (running.size < SIDE_BY_SIDE && waiting.size) {
    const [key, asked] = waiting.entries().next().value!
    waiting.delete(key)
    running.add(key)
    void fetched(asked)
  }
  idle.value = !running.size
}

async function fetched({ key, told }: Asked): Promise<void> {
  const found = await bytes(key).catch(() => undefined)
  if (found) kept.set(key, { flow: pairFlow(found) }, found.byteLength)
  else {
    missed.add(key)
    setTimeout(() => missed.delete(key), AGAIN_MS)
  }
  running.delete(key)
  count.value += 1
  for (const tell of told) tell()
  pump()
}

export const flows = {
  count,
  idle,

  /** The motion of two frames if it is there already; undefined while it is not. */
  ready: (sha256: string, { first, second }: Frames): Found | undefined =>
    kept.get(flowOf(sha256, first, second))?.flow,

  /** Have the motion of two frames looked for, and wait until it is there or cannot be had. */
  get(sha256: string, { first, second }: Frames): Promise<void> {
    const key = flowOf(sha256, first, second)
    if (kept.get(key) || missed.has(key)) return Promise.resolve()
    return new Promise((tell) => {
      const asked = waiting.get(key)
      if (asked) return void asked.told.push(tell)
      waiting.set(key, { key, told: [tell] })
      if (waiting.size > LONGEST_QUEUE) {
        const [oldest, dropped] = waiting.entries().next().value!
        waiting.delete(oldest)
        for (const each of dropped.told) each()
      }
      pump()
    })
  },
}
