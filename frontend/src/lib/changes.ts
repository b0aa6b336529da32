/** Puts what changed into what was known of an edit; the parts that did not change stay the same objects. */
import type { Derived, DerivedChange, Edit, EditChanged, EditState } from '@/api/client'

interface Splice<T> {
  at: number
  drop: number
  put: T[]
}

export function spliced<T>(before: T[], splice: Splice<T> | null): T[] {
  if (!splice) return before
  return [...before.slice(0, splice.at), ...splice.put, ...before.slice(splice.at + splice.drop)]
}

export function withChange(state: EditState, change: EditChanged): EditState {
  const edit = { ...state.edit, ...(change.edit.fields as Partial<Edit>) }
  edit.takes = spliced(edit.takes ?? [], change.edit.takes)
  edit.clips = spliced(edit.clips ?? [], change.edit.clips)
  const song = change.edit.song
  if (song && edit.song)
    edit.song = { ...edit.song, ...song.fields, cues: spliced(edit.song.cues ?? [], song.cues) }
  const { id, revision, can_undo, can_redo, music, mix, missing, floors, bundles } = change
  return {
    ...{ id, revision, can_undo, can_redo, music, mix, missing, floors, bundles, edit },
    cue_frames: spliced(state.cue_frames, change.cue_frames),
    derived: derivedWith(state.derived, change.derived),
  }
}

export function derivedWith(before: Derived, change: DerivedChange): Derived {
  const clips = new Map([...before.clips, ...change.clips].map((clip) => [clip.id, clip]))
  return {
    clips: change.order.map((id) => clips.get(id)!),
    map: mapWith(before.map, change.map),
    loose: change.loose ?? before.loose,
    accents: change.accents ?? before.accents,
    sounds: change.sounds ?? before.sounds,
    end: change.end,
  }
}

function mapWith(before: Derived['map'], change: DerivedChange['map']): Derived['map'] {
  if (!change) return before
  const { first, clips, begin, length, framings, placings, layers, looks, titles } = change
  const column = (old: number[] | Int32Array, put: ArrayLike<number>) => {
    const out = new Int32Array(length)
    if (put.length < length) out.set(old.slice(0, length))
    out.set(put, begin)
    // The description says number[]; both are read by index alone.
    return out as unknown as number[]
  }
  return {
    first,
    clips,
    clip: column(before.clip, change.clip),
    source: column(before.source, change.source),
    framings: framings ?? before.framings,
    placings: placings ?? before.placings,
    layers: layers ?? before.layers,
    looks: looks ?? before.looks,
    titles: titles ?? before.titles,
  }
}
