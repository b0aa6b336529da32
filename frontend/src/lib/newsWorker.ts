/** Asks for news, once for all tabs of a browser, and tells every tab. */
import { NEWS, follow } from './news'

const channel = new BroadcastChannel(NEWS)
let following: ReturnType<typeof follow> | null = null

// A tab that joins has just listed everything: what changed meanwhile is told once more.
const scope = self as unknown as { onconnect: () => void }
scope.onconnect = () => {
  following?.stop()
  following = follow((news) => channel.postMessage(news))
}
