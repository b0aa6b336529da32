/** One short sound of the server at a time, heard by itself. */
import { onScopeDispose, ref } from 'vue'
import { bytes } from '@/api/client'
import { useNotices } from '@/stores/notices'
import { audioClock } from './audio'

export function useExcerpt() {
  const notices = useNotices()
  /** The address of what is heard; empty while nothing is. */
  const playing = ref('')
  let source: AudioBufferSourceNode | null = null

  function stop(): void {
    source?.stop()
    source = null
    playing.value = ''
  }

  /** Hear it from its beginning; asked for again, stop it. */
  async function toggle(address: string): Promise<void> {
    const again = playing.value === address
    stop()
    if (again) return
    playing.value = address
    const audio = audioClock()
    const buffer = await notices.guard(bytes(address).then((wav) => audio.decodeAudioData(wav)))
    if (!buffer) return stop()
    if (playing.value !== address) return
    const now = new AudioBufferSourceNode(audio, { buffer })
    now.connect(audio.destination)
    now.onended = () => source === now && stop()
    now.start()
    source = now
  }

  onScopeDispose(stop)
  return { playing, toggle, stop }
}
