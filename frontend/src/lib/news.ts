/** Asking the server what is new, some times a second while anything happens. */
import type { Schemas } from '@/api/client'

export type News = Schemas['News']

/** The channel on which all tabs hear the news. */
export const NEWS = 'izmet-news'
const EVERY_MS = 250
/** How often where nothing has happened for a while. */
const IDLE_MS = 1000
const IDLE_AFTER_MS = 5000
/** How long to wait where there was no answer. */
export const AGAIN_MS = 1000

/** Tells news apart from what was told already: each answer goes back to shortly before the one before it. */
export class Unheard {
  private readonly told = new Map<string, string>()

  of(news: News): News {
    return {
      ...news,
      jobs: news.jobs.filter((job) => this.isNew(`job ${job.id}`, job)),
      edits: news.edits.filter((moved) => this.isNew(`edit ${moved.edit}`, moved)),
    }
  }

  private isNew(key: string, value: unknown): boolean {
    const now = JSON.stringify(value)
    const differs = this.told.get(key) !== now
    this.told.set(key, now)
    return differs
  }
}

/** Ask for news until it is stopped; the first answer tells of the last moments too, one after a silence that it is over. */
export function follow(tell: (news: News) => void): { stop: () => void } {
  const unheard = new Unheard()
  let since = 0
  let stopped = false
  let silent = false
  let last = performance.now()

  async function ask(): Promise<void> {
    while (!stopped) {
      const answer = await fetch(`/api/news?since=${since}`).catch(() => null)
      if (stopped) return
      if (answer?.ok) {
        const news = unheard.of((await answer.json()) as News)
        since = news.now
        if (news.jobs.length || news.edits.length || silent) {
          last = performance.now()
          tell(news)
        }
      }
      silent = !answer?.ok
      const every = performance.now() - last > IDLE_AFTER_MS ? IDLE_MS : EVERY_MS
      await new Promise((resolve) => setTimeout(resolve, answer?.ok ? every : AGAIN_MS))
    }
  }
  void ask()
  return { stop: () => (stopped = true) }
}
