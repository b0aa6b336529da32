/** What the person should be told: a problem stays until it is read or its cause is gone, news fades. */
import { defineStore } from 'pinia'
import { ref } from 'vue'
import { Failure, type Problem } from '@/api/client'

/** What a problem hangs on: with a change to the edit, or with the next answer, its cause may be gone. */
export type Cause = 'edit' | 'answer' | 'itself'

export interface Notice {
  id: number
  kind: 'problem' | 'news' | 'question'
  cause: Cause
  what: string
  where: string
  remedy: string
  /** What can be done about it; the first one is the cheapest. */
  actions: Action[]
}

export interface Action {
  label: string
  act: () => void
}

const FADE_MS = 4000
const MOST = 3

export const useNotices = defineStore('notices', () => {
  const list = ref<Notice[]>([])
  /** Dialogs that are open: what is told meanwhile is told in the topmost one. */
  const dialogs = ref(0)
  let count = 0

  function add(notice: Omit<Notice, 'id'>): void {
    const id = ++count
    const others = list.value.filter((other) => other.what !== notice.what)
    list.value = [...others, { id, ...notice }].slice(-MOST)
    if (notice.kind === 'news') setTimeout(() => dismiss(id), FADE_MS)
  }

  function problem(found: Failure | Problem, actions: Action[] = [], cause: Cause = 'itself'): void {
    const failure = found instanceof Failure ? found : new Failure(found)
    const { what, where = '', remedy = '' } = failure.problem
    add({ kind: 'problem', what, where, remedy, actions, cause: failure.passing ? 'answer' : cause })
  }

  const news = (what: string) =>
    add({ kind: 'news', what, where: '', remedy: '', actions: [], cause: 'itself' })

  /** Ask something that can wait: it stays until it is answered or dismissed. */
  const ask = (what: string, remedy: string, actions: Action[]) =>
    add({ kind: 'question', what, where: '', remedy, actions, cause: 'edit' })

  /** What some work comes to; undefined where it failed, and then the person is told. */
  async function guard<T>(work: Promise<T>): Promise<T | undefined> {
    try {
      const done = await work
      gone('answer')
      return done
    } catch (failure) {
      if (!(failure instanceof Failure)) throw failure
      problem(failure)
      return undefined
    }
  }

  function dismiss(id: number): void {
    list.value = list.value.filter((notice) => notice.id !== id)
  }

  /** The cause of some problems is gone, and they with it. */
  function gone(cause: Cause): void {
    list.value = list.value.filter((notice) => notice.kind !== 'problem' || notice.cause !== cause)
  }

  /** Dismiss the last problem or question; whether there was one. */
  function dismissLast(): boolean {
    const last = list.value.filter((notice) => notice.kind !== 'news').at(-1)
    if (last) dismiss(last.id)
    return !!last
  }

  return { list, dialogs, problem, news, ask, guard, dismiss, dismissLast, gone }
})
