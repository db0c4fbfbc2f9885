import { expect, it } from 'vitest'
import { passedOf, whenOf } from './jobs'

const times = {
  day: (at?: string) => at?.slice(5, 10) ?? '',
  clock: (at?: string) => at?.slice(11, 16) ?? '',
}

it.each([
  [{ starts: '2026-11-26T08:00', ends: '2026-11-26T14:00' }, '11-26, 08:00 to about 14:00'],
  [{ starts: '2026-11-26T20:00', ends: '2026-11-27T06:00' }, '11-26, 20:00 to about 11-27, 06:00'],
  [{ starts: '2026-11-26T08:00' }, 'from 11-26, 08:00'],
  [{ ends: '2026-11-26T14:00' }, 'until about 11-26, 14:00'],
  [{}, 'no times'],
  [{ starts: '2026-11-26T08:00', closed: '2026-11-26T12:30' }, 'closed 11-26, 12:30'],
] as const)('says when a job is', (job, says) => expect(whenOf(job, times)).toBe(says))

it('says how much of a job has passed', () => {
  const job = { starts: '2026-11-26T08:00:00Z', ends: '2026-11-26T12:00:00Z' }
  const at = (clock: string) => passedOf(job, new Date(`2026-11-26T${clock}:00Z`).getTime())
  expect(at('09:00')).toBe(0.25)
  expect(at('07:00')).toBe(0)
  expect(at('13:00')).toBe(1)
  expect(passedOf({ starts: job.starts }, 0)).toBeUndefined()
})
