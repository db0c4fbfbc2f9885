import type { Channel, DeliveryState } from '@/api/client'

const number = new Intl.NumberFormat('en-GB')

export const thousands = (n: number): string => number.format(n)

/** “1 person”, “2 people”. */
export const count = (n: number, one: string, many: string): string =>
  `${thousands(n)} ${n === 1 ? one : many}`

export const people = (n: number): string => count(n, 'person', 'people')

export const channelWords: Record<Channel, string> = {
  email: 'Email',
  text: 'Text',
  voice: 'Voice',
  push: 'Push',
}

/** One and many of what a channel carries. */
export const things: Record<Channel, [string, string]> = {
  email: ['email', 'emails'],
  text: ['text', 'texts'],
  voice: ['call', 'calls'],
  push: ['push', 'pushes'],
}

export const healthWords = {
  untried: 'not tried yet',
  good: 'works',
  failing: 'failed last time',
  dead: 'dead: no longer used',
}

/** A day such as 2026-11-28, as people write it. */
export const dayWords = (day?: string): string =>
  day
    ? new Intl.DateTimeFormat('en-GB', {
        day: 'numeric',
        month: 'short',
        year: 'numeric',
        timeZone: 'UTC',
      }).format(new Date(`${day}T00:00:00Z`))
    : ''

/** The month of a day such as 2026-11-28. */
export const monthWords = (day: string): string =>
  new Intl.DateTimeFormat('en-GB', { month: 'long', year: 'numeric', timeZone: 'UTC' }).format(
    new Date(`${day}T00:00:00Z`),
  )

/** The stages that a mark's fill tells apart. */
export type Stage = 'waiting' | 'undecided' | 'carrier' | 'arrived' | 'answered' | 'failed' | 'stopped'

const stages: Record<DeliveryState, Stage> = {
  held: 'waiting',
  queued: 'waiting',
  retrying: 'waiting',
  undecided: 'undecided',
  carrier: 'carrier',
  arrived: 'arrived',
  opened: 'arrived',
  answered: 'answered',
  failed: 'failed',
  expired: 'failed',
  stopped: 'stopped',
}

export const stageOf = (state: DeliveryState): Stage => stages[state]

export const stateWords: Record<DeliveryState, string> = {
  held: 'on hold',
  queued: 'about to leave',
  retrying: 'failed for now',
  undecided: 'not known if it left',
  carrier: 'with the carrier',
  arrived: 'arrived',
  opened: 'opened',
  answered: 'answered',
  failed: 'failed for good',
  expired: 'too late',
  stopped: 'stopped',
}

/** A number of bytes the way people read it. */
export function bytes(n: number): string {
  if (n < 1000) return count(n, 'byte', 'bytes')
  if (n < 1_000_000) return `${Math.round(n / 1000)} kB`
  return `${(n / 1_000_000).toFixed(1)} MB`
}
