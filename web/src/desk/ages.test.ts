import { expect, it } from 'vitest'
import { ageOf } from './ages'

const now = new Date('2026-11-26T10:00:00Z').getTime()

it.each([
  ['2026-11-26T09:59:40Z', 'now'],
  ['2026-11-26T09:48:00Z', '12 min'],
  ['2026-11-26T07:00:00Z', '3 h'],
  ['2026-11-25T23:30:00Z', '10 h'],
  ['2026-11-25T18:30:00Z', 'yesterday'],
  ['2026-11-24T18:30:00Z', 'Tue'],
  ['2026-11-12T18:30:00Z', '12 Nov'],
])('says how long ago %s was', (at, says) => expect(ageOf(at, now, 'Europe/London')).toBe(says))

it('counts days on the organisation’s clocks', () => {
  const late = new Date('2026-11-26T23:30:00Z').getTime()
  expect(ageOf('2026-11-26T10:00:00Z', late, 'Europe/London')).toBe('13 h')
  expect(ageOf('2026-11-26T10:00:00Z', late, 'Asia/Tokyo')).toBe('yesterday')
})
