/**
 * A field that a person types into: what is typed stays until it is sent, whatever is drawn anew meanwhile; then
 * it shows what became of it, which is what was there before where it was refused or made no sense.
 */
import type { Directive } from 'vue'

/** So long after it was sent; an answer that comes later still shows. */
const BECOMES_MS = 1000

type Field = HTMLInputElement | HTMLTextAreaElement
const typing = new WeakSet<Field>()
const said = new WeakMap<Field, string>()

function show(field: Field): void {
  const text = said.get(field) ?? ''
  if (!typing.has(field) && field.value !== text) field.value = text
}

export const vTyped: Directive<Field, string | number | undefined> = {
  mounted(field, { value }) {
    said.set(field, String(value ?? ''))
    show(field)
    field.addEventListener('input', () => typing.add(field))
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
