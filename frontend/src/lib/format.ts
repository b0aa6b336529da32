/** Numbers as people read them. */
import { frameClock } from './frameClock'

/** A count of something, its word in the singular or the plural. */
export const counted = (count: number, what: string) => `${count} ${what}${count === 1 ? '' : 's'}`

export function percent(speed: number | null | undefined): string {
  if (speed == null) return '–'
  const value = Math.abs(speed) * 100
  return `${speed < 0 ? '−' : ''}${value < 100 ? +value.toFixed(1) : Math.round(value)} %`
}

/** How much of some work is done. */
export const progress = (work: { done: number; total: number }) =>
  `${Math.round((100 * work.done) / work.total)} %`

export function seconds(value: number, digits = 3): string {
  const parts = 10 ** digits
  const rounded = Math.round(Math.abs(value) * parts)
  const minutes = Math.floor(rounded / (60 * parts))
  const rest = ((rounded % (60 * parts)) / parts).toFixed(digits).padStart(3 + digits, '0')
  return `${value < 0 && rounded ? '−' : ''}${minutes}:${rest}`
}

export function signedMs(value: number | null | undefined): string {
  if (value == null) return '–'
  return `${value > 0.05 ? '+' : value < -0.05 ? '−' : ''}${Math.abs(value).toFixed(1)} ms`
}

export function rate(text: string): string {
  const value = frameClock(text).rate
  return `${Number.isInteger(value) ? value : value.toFixed(2)} fps`
}

export function size(bytes: number): string {
  return bytes < 1e6 ? `${Math.ceil(bytes / 1000)} kB` : `${(bytes / 1e6).toFixed(1)} MB`
}

/** How long something takes, as people say it. */
export function about(value: number): string {
  if (value < 10) return 'a few seconds'
  if (value < 90) return `about ${Math.round(value / 10) * 10} s`
  if (value < 5400) return `about ${Math.round(value / 60)} min`
  return `about ${Math.round(value / 1800) / 2} h`
}

/** How long ago an instant was, in words; it is in seconds since the epoch. */
export function ago(instant: number): string {
  const minutes = Math.max(0, (Date.now() / 1000 - instant) / 60)
  if (minutes < 1) return 'just now'
  if (minutes < 60) return `${Math.floor(minutes)} min ago`
  if (minutes < 60 * 24) return `${Math.floor(minutes / 60)} h ago`
  return `on ${new Date(instant * 1000).toLocaleDateString(undefined, { day: 'numeric', month: 'long', year: 'numeric' })}`
}

/** A number below 0 with a minus, not a hyphen. */
export const withMinus = (value: number | string) => String(value).replace('-', '−')
