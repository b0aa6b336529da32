/** The accent of one kind on a cue, and how it is changed. */
import { computed } from 'vue'
import type { Command, Edit } from '@/api/client'
import { useEdit } from '@/stores/edit'

type Accent = NonNullable<Edit['accents']>[number]
type Change = Omit<Extract<Command, { do: 'change-accent' }>, 'do' | 'accent'>

export function useAccent<K extends NonNullable<Accent['kind']>>(kind: K, cue: () => string) {
  type Mine = Extract<Accent, { kind?: K }>
  const edit = useEdit()
  const accent = computed(() =>
    edit.accents.find((each): each is Mine => each.kind === kind && each.at.cue === cue()),
  )
  const change = (values: Change) =>
    void (accent.value && edit.run({ do: 'change-accent', accent: accent.value.id, ...values }))
  return { accent, change }
}
