import { queryOptions } from '@tanstack/vue-query'
import { api, take, type Schemas } from '@/api/client'

export type Job = Schemas['JobView']
export type Part = Schemas['JobPerson']['part']

export const jobsQuery = queryOptions({
  queryKey: ['roster', 'jobs'],
  queryFn: () => take(api.GET('/jobs')),
})

/** The parts that people have in a job, in their order. */
export const parts: { part: Part; title: string; few: string }[] = [
  { part: 'does', title: 'Do it', few: 'do it' },
  { part: 'on-site', title: 'On site', few: 'on site' },
  { part: 'watches', title: 'Watch over it', few: 'watch over it' },
]

export type Times = { day: (at?: string) => string; clock: (at?: string) => string }

/** When a job is, as a shift says it: “Fri 27 Nov, 08:00 to about 14:00”. */
export function whenOf(job: Pick<Job, 'starts' | 'ends' | 'closed'>, times: Times): string {
  const moment = (at: string) => `${times.day(at)}, ${times.clock(at)}`
  if (job.closed) return `closed ${moment(job.closed)}`
  const { starts, ends } = job
  if (!starts) return ends ? `until about ${moment(ends)}` : 'no times'
  if (!ends) return `from ${moment(starts)}`
  const sameDay = times.day(starts) === times.day(ends)
  return `${moment(starts)} to about ${sameDay ? times.clock(ends) : moment(ends)}`
}

/** How much of a job's time has passed, from 0 to 1; undefined of one without times. */
export function passedOf(job: Pick<Job, 'starts' | 'ends'>, now: number): number | undefined {
  if (!job.starts || !job.ends) return undefined
  const [from, to] = [new Date(job.starts).getTime(), new Date(job.ends).getTime()]
  if (to <= from) return undefined
  return Math.min(1, Math.max(0, (now - from) / (to - from)))
}
