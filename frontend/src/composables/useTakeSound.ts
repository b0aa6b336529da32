/** A take's own sound, heard while one steps through its frames and runs it forward. */
import { onScopeDispose, watch, type Ref } from 'vue'
import { audioClock, Sounding, STRETCH_SECONDS, takeStretch } from '@/composables/audio'
import { piecesOf } from '@/lib/laps'
import { useLayout } from '@/stores/layout'
import { useView } from '@/stores/view'

/** A single frame is too short to be heard as anything but a click. */
const SHORTEST_SECONDS = 0.06
const FADE_SECONDS = 0.008
const AHEAD_SECONDS = 5
/** What is passed on the way to somewhere else is not fetched. */
const RESTS_MS = 100

export function useTakeSound(speed: Ref<number>): void {
  const view = useView()
  const layout = useLayout()
  const sounding = new Sounding()
  /** Starts what is due soon; nothing while nothing is heard. */
  let pump: () => void = () => undefined

  const here = () => view.takeClock.time(view.takeFrame)
  const stretch = (number: number) => {
    const sha256 = view.take?.media.sha256
    return sha256 ? takeStretch(audioClock(), sha256, number).catch(() => null) : Promise.resolve(null)
  }
  const number = () => Math.floor(here() / STRETCH_SECONDS)
  /** The stretch that was ready last. */
  let at = -1

  function stop(): void {
    sounding.stop()
    pump = () => undefined
  }

  /** Sound the take from the frame at hand on, for so many seconds. */
  async function play(seconds: number): Promise<void> {
    stop()
    const mine = (pump = () => undefined)
    if (number() !== at) await new Promise((go) => setTimeout(go, RESTS_MS))
    if (pump !== mine) return
    at = number()
    await stretch(at)
    const audio = audioClock()
    if (pump !== mine || audio.state !== 'running') return
    const startedAt = audio.currentTime
    const end = here() + seconds
    const pieces = piecesOf({ start: here(), end, loop: null, slowness: 1 }, STRETCH_SECONDS, end)
    const gain = new GainNode(audio)
    gain.connect(audio.destination)
    gain.gain.setValueAtTime(1, startedAt + Math.max(0, seconds - FADE_SECONDS))
    gain.gain.linearRampToValueAtTime(0, startedAt + seconds)
    const now = () => {
      for (const { block, since, offset, duration } of pieces.until(
        audio.currentTime - startedAt + AHEAD_SECONDS,
      ))
        void stretch(block).then((buffer) => {
          if (buffer && pump === now) sounding.start(gain, buffer, startedAt + since, offset, duration)
        })
    }
    pump = now
    pump()
  }

  let loaded: string | null = null
  /** Nothing is fetched before somebody looks at the take's frames. */
  watch(
    () => [view.takeFrame, layout.desk] as const,
    ([, desk]) => {
      const sha256 = view.take?.media.sha256 ?? null
      if (desk !== 'takes') return
      if (sha256 !== loaded) {
        loaded = sha256
        stop()
        void stretch((at = number()))
      } else if (speed.value === 0) void play(Math.max(SHORTEST_SECONDS, view.takeClock.time(1)))
      else pump()
    },
  )
  watch(speed, (now) => {
    if (now === 1) void play(view.takeClock.time(view.take?.frames ?? 0) - here())
    else stop()
  })
  onScopeDispose(stop)
}
