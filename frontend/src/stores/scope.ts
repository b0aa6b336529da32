/**
 * Stores that belong to one edit. Each is made for the edit whose screen is open and ends with that screen,
 * so what a screen shows, and what its commands name, is the edit of its address and never another one.
 */
import { effectScope, onScopeDispose, reactive, type EffectScope, type Reactive } from 'vue'

interface Screen {
  id: number
  scope: EffectScope
  stores: Map<string, unknown>
}

let open: Screen | null = null

/** Open the screen of an edit, first thing in its setup; it is closed with it. */
export function openEdit(id: number): void {
  const mine: Screen = { id, scope: effectScope(true), stores: new Map() }
  open = mine
  onScopeDispose(() => {
    mine.scope.stop()
    if (open === mine) open = null
  })
}

/** A store for each edit: ``useX()`` gives the one of the edit whose screen is open. */
export function forEdit<S extends object>(name: string, setup: (id: number) => S): () => Reactive<S> {
  return () => {
    if (!open) throw new Error(`no edit is open that could have a store ${name}`)
    const { id, scope, stores } = open
    if (!stores.has(name))
      stores.set(
        name,
        scope.run(() => reactive(setup(id))),
      )
    return stores.get(name) as Reactive<S>
  }
}
