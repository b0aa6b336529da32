/** What the person should be told: problems stay until read, news fades. */
import { defineStore } from 'pinia'
import { ref } from 'vue'
import { Failure, type Problem } from '@/api/client'

export interface Notice {
  id: number
  kind: 'problem' | 'news'
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

export const useNotices = defineStore('notices', () => {
  const list = ref<Notice[]>([])
  let count = 0

  function add(kind: Notice['kind'], what: string, where = '', remedy = '', actions: Action[] = []): void {
    const id = ++count
    list.value = [
      ...list.value.filter((other) => other.what !== what),
      { id, kind, what, where, remedy, actions },
    ].slice(-3)
    if (kind === 'news') setTimeout(() => dismiss(id), FADE_MS)
  }
  const problem = (found: Problem, actions: Action[] = []) =>
    add('problem', found.what, found.where, found.remedy, actions)
  const news = (what: string) => add('news', what)

  /** What some work comes to; undefined where it failed, and then the person is told. */
  async function guard<T>(work: Promise<T>): Promise<T | undefined> {
    try {
      return await work
    } catch (failure) {
      if (!(failure instanceof Failure)) throw failure
      problem(failure.problem)
      return undefined
    }
  }

  function dismiss(id: number): void {
    list.value = list.value.filter((notice) => notice.id !== id)
  }
  return { list, problem, news, guard, dismiss }
})
