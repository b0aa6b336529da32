/** Exports in words. */
import type { Schemas } from '@/api/client'
import { FORMATS } from '@/lib/terms'

export type Job = Schemas['JobInfo']

export const formatName = ({ args }: Job) =>
  FORMATS.find(({ value }) => value === args.delivery?.format)?.name ?? 'File'

/** What an export is: its format, and its size and rate where they are not the edit's. */
export function exportSaid(job: Job): string {
  const { width, height, rate } = job.args.delivery ?? {}
  const size = width && height ? [`${width}×${height}`] : []
  return [formatName(job), ...size, ...(rate ? [`${rate} fps`] : [])].join(', ')
}
