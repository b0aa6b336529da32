/** The server, typed by its own description. A failure is always a Problem. */
import createClient from 'openapi-fetch'
import type { components, paths } from './schema'

export type Schemas = components['schemas']
export type EditState = Schemas['EditState']
export type Edit = Schemas['Edit']
export type Derived = Schemas['Derived']
export type DerivedClip = Schemas['DerivedClip']
export type DerivedChange = Schemas['DerivedChange']
export type EditChanged = Schemas['EditChanged']
export type SpanValue = DerivedClip['spans'][number]['values'][number]
export type Landing = Schemas['Landing']
export type Clip = Schemas['Clip']
export type Take = Schemas['Take']
export type Cue = Schemas['Cue']
export type CueKind = NonNullable<Cue['kind']>
export type CueSelection = Required<Schemas['CueSelection']>
export type Section = Schemas['Section']
export type Analysis = Schemas['Found']
export type Beats = Schemas['Beats']
export type CueChanges = Schemas['CueChanges']
export type Moment = Schemas['Moment']
export type MomentKind = NonNullable<Moment['kind']>
export type Asset = Schemas['AssetInfo']
export type TakeFacts = Schemas['TakeFacts']
export type TakeMeasures = Schemas['TakeMeasuresInfo']
export type Proposal = Schemas['ProposalInfo']
export type SongFacts = Schemas['SongFacts']
export type Job = Schemas['JobInfo']
export type Problem = Schemas['Problem'] & { repairs?: Schemas['Repair'][] }
export type Command = Schemas['RunCommand']['command']
export type Repair = Schemas['Repair']
export type Recipe = Schemas['Recipe']
export type PastEntry = Schemas['PastEntry']
export type Length = Schemas['Length']
export type CustomShape = Schemas['Custom']
export type Shape = Clip['spans'][number]
export type ExportFormat = Schemas['NewExport']['format']

export const api = createClient<paths>({ baseUrl: '' })

/** Thrown for every answer that is not a success. */
export class Failure extends Error {
  constructor(
    readonly problem: Problem,
    readonly current?: EditState,
  ) {
    super(problem.what)
  }

  /** Whether the same question may be answered in a moment. */
  get passing(): boolean {
    return ['unreachable', 'busy', 'internal', 'disk-full'].includes(this.problem.code)
  }
}

export const UNREACHABLE: Problem = {
  code: 'unreachable',
  what: 'Izmet does not answer.',
  where: '',
  remedy: 'Start it again with make demo or izmet serve; nothing that was saved is lost.',
}

/** The data of an answer, or a Failure. */
export async function take<T>(answer: Promise<{ data?: T; error?: unknown }>): Promise<T> {
  const { data, error } = await answer.catch(() => ({ data: undefined, error: UNREACHABLE }))
  if (data !== undefined) return data
  const problem = (error as Problem | undefined)?.what ? (error as Problem) : UNREACHABLE
  throw new Failure(problem, (error as { current?: EditState } | undefined)?.current)
}

/** The bytes of an answer, or a Failure: for what openapi-fetch does not read. */
export async function bytes(address: string, init?: RequestInit): Promise<ArrayBuffer> {
  const answer = await fetch(address, init).catch(() => null)
  if (answer?.ok) return answer.arrayBuffer()
  const problem = (await answer?.json().catch(() => null)) as (Problem & { current?: EditState }) | null
  throw new Failure(problem?.what ? problem : UNREACHABLE, problem?.current)
}

/** What an answer with a JSON body says, or a Failure: for bodies that openapi-fetch does not send. */
export async function json<T>(address: string, init?: RequestInit): Promise<T> {
  return JSON.parse(new TextDecoder().decode(await bytes(address, init))) as T
}

/** The address of one source frame's proxy picture. */
export const frameOf = (sha256: string, frame: number) => `/api/assets/${sha256}/frames/${frame}`

/** The address of how two source frames move to one another. */
export const flowOf = (sha256: string, first: number, second: number) =>
  `/api/assets/${sha256}/flow?first=${first}&second=${second}`

/** The address of something derived from a file. */
export function partOf(
  sha256: string,
  part: 'poster' | 'motion' | 'measures' | 'slow-2.flac' | 'slow-4.flac' | 'peaks',
): string {
  return `/api/assets/${sha256}/${part}`
}
