/** Tapping along: taps while the music plays are gathered and set as one step when it stops. */
import { ref, watch } from 'vue'
import type { Playback } from '@/composables/usePlayback'
import { useEdit } from '@/stores/edit'
import { useListening } from '@/stores/listening'

const IDLE_MS = 2500

export function useTaps(playback: Playback) {
  const edit = useEdit()
  const listening = useListening()
  const taps = ref<number[]>([])
  let timer = 0

  function tap(): void {
    const song = edit.song
    if (!song) return
    const time = playback.now() - (song.start ?? 0)
    if (time < 0 || time > song.duration) return
    taps.value = [...taps.value, time]
    clearTimeout(timer)
    if (!playback.stats.playing) keep()
    else timer = window.setTimeout(keep, IDLE_MS)
  }

  function keep(): void {
    clearTimeout(timer)
    const times = taps.value
    taps.value = []
    if (!times.length) return
    const { kind, draw, window: reach, replace } = listening.tap
    // A cue set while nothing plays goes exactly where the playhead is.
    const drawn = draw && (playback.stats.playing || times.length > 1) ? reach : null
    void edit.tap(times, { kind, window: drawn, replace: replace && times.length > 1 })
  }

  watch(
    () => playback.stats.playing,
    (playing) => !playing && keep(),
  )
  return { taps, tap }
}
