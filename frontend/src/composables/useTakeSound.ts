/** A take's own sound, heard while one steps through its frames and runs it forward. */
import { onScopeDispose, watch, type Ref } from 'vue'
import { partOf } from '@/api/client'
import { audioClock } from '@/composables/audio'
import { useMusic } from '@/stores/music'
import { useView } from '@/stores/view'

/** A single frame is too short to be heard as anything but a click. */
const SHORTEST_SECONDS = 0.06
const FADE_SECONDS = 0.008
const MOST_BYTES = 48 << 20

export function useTakeSound(speed: Ref<number>): void {
  const view = useView()
  const music = useMusic()
  let buffer: AudioBuffer | null = null
  let playing: AudioBufferSourceNode | null = null

  async function load(sha256: string | undefined | null): Promise<void> {
    stop()
    buffer = null
    if (!sha256) return
    const answer = await fetch(partOf(sha256, 'sound.flac')).catch(() => null)
    // A take without sound, or with more of it than is to be held at once.
    if (!answer?.ok || Number(answer.headers.get('Content-Length')) > MOST_BYTES) return
    const found = await audioClock()
      .decodeAudioData(await answer.arrayBuffer())
      .catch(() => null)
    if (view.take?.media.sha256 === sha256) buffer = found
  }

  function stop(): void {
    playing?.stop()
    playing = null
  }

  function play(from: number, seconds: number): void {
    stop()
    const audio = audioClock()
    if (!buffer || audio.state !== 'running') return
    const gain = new GainNode(audio, { gain: 1 })
    gain.connect(audio.destination)
    gain.gain.setValueAtTime(1, audio.currentTime + Math.max(0, seconds - FADE_SECONDS))
    gain.gain.linearRampToValueAtTime(0, audio.currentTime + seconds)
    playing = new AudioBufferSourceNode(audio, { buffer })
    playing.connect(gain)
    playing.start(0, from, seconds)
  }

  let loaded: string | null = null
  /** Nothing is fetched before somebody looks at the take's frames. */
  watch(
    () => [view.takeFrame, music.desk] as const,
    ([frame, desk]) => {
      const sha256 = view.take?.media.sha256 ?? null
      if (desk !== 'takes') return
      if (sha256 !== loaded) return void load((loaded = sha256))
      if (speed.value === 0) play(frame / view.takeRate, Math.max(SHORTEST_SECONDS, 1 / view.takeRate))
    },
  )
  watch(speed, (now) => {
    if (now === 1 && buffer)
      play(view.takeFrame / view.takeRate, buffer.duration - view.takeFrame / view.takeRate)
    else stop()
  })
  onScopeDispose(stop)
}
