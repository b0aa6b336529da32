/** Asking the server what is new, some times a second. */
import type { Schemas } from '@/api/client'

export type News = Schemas['News']

/** The channel on which all tabs hear the news. */
export const NEWS = 'izmet-news'
const EVERY_MS = 250
const AGAIN_MS = 1000

/** Ask for news until it is stopped; the first answer tells of the last moments too. */
export function follow(tell: (news: News) => void): { stop: () => void } {
  let since = 0
  let stopped = false

  async function ask(): Promise<void> {
    while (!stopped) {
      const answer = await fetch(`/api/news?since=${since}`).catch(() => null)
      if (stopped) return
      if (answer?.ok) {
        const news = (await answer.json()) as News
        since = news.now
        if (news.jobs.length || news.edits.length) tell(news)
      }
      await new Promise((resolve) => setTimeout(resolve, answer?.ok ? EVERY_MS : AGAIN_MS))
    }
  }
  void ask()
  return { stop: () => (stopped = true) }
}
