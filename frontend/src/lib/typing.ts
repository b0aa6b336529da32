/**
 * A field that a person types into: what is typed stays until it is sent, whatever is drawn anew meanwhile; then
 * it shows what became of it, which is what was there before where it was refused or made no sense.
 */
import type { Directive } from 'vue'

/** How long after it was sent; a later answer still shows. */
const BECOMES_MS = 1000

type Field = HTMLInputElement | HTMLTextAreaElement
const typing = new WeakSet<Field>()
const said = new WeakMap<Field, string>()
/** What each showed of it last: a slider rounds. */
const shown = new WeakMap<Field, string>()

function show(field: Field): void {
  if (typing.has(field)) return
  const text = said.get(field) ?? ''
  if (field.value !== text) field.value = text
  shown.set(field, field.value)
}

export const vTyped: Directive<Field, string | number | undefined> = {
  mounted(field, { value }) {
    said.set(field, String(value ?? ''))
    show(field)
    field.addEventListener('input', () => {
      // Back where it was there is nothing to send, and no change is told.
      if (field.value === shown.get(field)) typing.delete(field)
      else typing.add(field)
    })
    field.addEventListener('change', () => {
      typing.delete(field)
      setTimeout(() => show(field), BECOMES_MS)
    })
    field.addEventListener('blur', () => {
      // Left as it was found: nothing is sent, and what came meanwhile shows.
      if (typing.delete(field)) show(field)
    })
  },
  updated(field, { value }) {
    said.set(field, String(value ?? ''))
    show(field)
  },
}
