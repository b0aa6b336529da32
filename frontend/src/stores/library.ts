/** Files and background work: what is on the shelf, what is being read or exported. */
import { defineStore } from 'pinia'
import { computed, reactive, ref, shallowRef } from 'vue'
import { api, take, type Asset, type Job, type Schemas } from '@/api/client'
import { isSong } from '@/lib/media'
import { send } from '@/lib/sending'
import { useNotices } from './notices'

export interface Upload {
  name: string
  kind: Asset['kind']
  part: number
  /** Give it up. */
  cancel: () => void
}

/** One file may be a song and a take. */
export const keyOf = ({ sha256, kind }: Asset) => `${kind}:${sha256}`

export const isActive = (job: Job) => job.state === 'running' || job.state === 'queued'

/** Files that are sent side by side. */
const AT_ONCE = 2

export const useLibrary = defineStore('library', () => {
  const notices = useNotices()
  const assets = shallowRef<Asset[]>([])
  const bin = shallowRef<Asset[]>([])
  const jobs = shallowRef<Job[]>([])
  const uploads = ref<Upload[]>([])
  const songs = computed(() => assets.value.filter((asset) => asset.kind === 'song'))
  const takes = computed(() => assets.value.filter((asset) => asset.kind === 'take'))
  /** Who waits until a file has been read. */
  const waiting = new Map<string, (asset: Asset) => void>()

  async function load(): Promise<void> {
    show(await take(api.GET('/api/assets')))
    jobs.value = (await take(api.GET('/api/jobs'))).jobs
  }

  function show(list: Schemas['AssetList']): void {
    assets.value = list.assets
    bin.value = list.bin ?? []
  }

  const at = ({ sha256, kind }: Asset) => ({ params: { path: { sha256 }, query: { kind } } })
  /** Take a file off the shelf, and put it back. */
  const toBin = (asset: Asset) =>
    notices.guard(take(api.DELETE('/api/assets/{sha256}', at(asset))).then(show))
  const fromBin = (asset: Asset) =>
    notices.guard(take(api.POST('/api/assets/{sha256}/restore', at(asset))).then(show))

  function kindOf(file: File): Asset['kind'] {
    return file.type.startsWith('audio/') || isSong(file.name) ? 'song' : 'take'
  }

  /** Put a file in. The asset once it has been read, nothing when it cannot be. */
  const upload = (file: File, kind = kindOf(file)) => notices.guard(put(file, kind))

  let sending = 0
  const queue: (() => void)[] = []

  /** Its turn to be sent: a few at a time, songs before takes. */
  async function turn(kind: Asset['kind']): Promise<void> {
    if (sending >= AT_ONCE)
      await new Promise<void>((go) => (kind === 'song' ? queue.unshift(go) : queue.push(go)))
    else sending += 1
  }

  function next(): void {
    const go = queue.shift()
    if (go) go()
    else sending -= 1
  }

  async function put(file: File, kind: Asset['kind']): Promise<Asset | undefined> {
    const given = new AbortController()
    const entry = reactive<Upload>({ name: file.name, kind, part: 0, cancel: () => given.abort() })
    uploads.value.push(entry)
    await turn(kind)
    const asset = await send(file, kind, (part) => (entry.part = part), given.signal).finally(() => {
      next()
      uploads.value = uploads.value.filter((other) => other !== entry)
    })
    if (!asset) return
    const read = asset.state === 'ready' ? asset : untilRead(asset)
    await load()
    return await read
  }

  async function untilRead(sent: Asset): Promise<Asset | undefined> {
    const asset = await new Promise<Asset>((resolve) => waiting.set(keyOf(sent), resolve))
    return asset.state === 'ready' ? asset : undefined
  }

  /** A job changed: keep it, and look at its file again when it has ended. */
  async function onJob(job: Job): Promise<void> {
    jobs.value = [job, ...jobs.value.filter((other) => other.id !== job.id)].sort((a, b) => b.id - a.id)
    if (isActive(job) || !['read', 'listen', 'bundle', 'join'].includes(job.kind)) return
    if (['bundle', 'join'].includes(job.kind) && job.state === 'failed' && job.error)
      notices.problem(job.error)
    const told =
      job.kind === 'bundle' && job.result ? (job.result as Schemas['BundleReport']).consequences : []
    if (told.length) notices.news(`${job.args.name}: ${told.map(({ text }) => text).join(', ')}.`)
    show(await take(api.GET('/api/assets')))
    const kind = job.kind === 'listen' ? 'song' : job.args.media
    const asset = assets.value.find((other) => other.sha256 === job.args.asset && other.kind === kind)
    if (asset) waiting.get(keyOf(asset))?.(asset)
  }

  /** The job that reads a file, and the one that still listens to a song, if there is one. */
  const reading = (asset: Asset) =>
    jobs.value.find(
      (job) =>
        job.kind === 'read' &&
        job.args.asset === asset.sha256 &&
        job.args.media === asset.kind &&
        isActive(job),
    )
  const listeningTo = (sha256: string) =>
    jobs.value.find((job) => job.kind === 'listen' && job.args.asset === sha256 && isActive(job))

  /** Ask for something that answers with a job, and keep it. The job, nothing when it was refused. */
  const start = (asked: Parameters<typeof take<Job>>[0]) =>
    notices.guard(
      take(asked).then(async (job) => {
        await onJob(job)
        return job
      }),
    )
  const cancel = (job: Job) => start(api.POST('/api/jobs/{id}/cancel', { params: { path: { id: job.id } } }))
  const again = (job: Job) => start(api.POST('/api/jobs/{id}/retry', { params: { path: { id: job.id } } }))
  /** Hear all of a song of which only the beginning has been heard. */
  const hearAll = (sha256: string) =>
    start(api.POST('/api/assets/{sha256}/listen', { params: { path: { sha256 } } }))
  /** Read a file again. */
  const retry = (asset: Asset) =>
    notices.guard(take(api.POST('/api/assets/{sha256}/retry', at(asset))).then(load))

  return {
    assets,
    bin,
    toBin,
    fromBin,
    songs,
    takes,
    jobs,
    uploads,
    load,
    upload,
    onJob,
    reading,
    listeningTo,
    start,
    cancel,
    again,
    hearAll,
    retry,
  }
})
