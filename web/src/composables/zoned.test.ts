import { describe, expect, it } from 'vitest'
import { fromWall, toWall } from './zoned'

describe('wall-clock times in a zone', () => {
  it.each([
    ['winter', '2026-11-28T18:00', 'Europe/London', '2026-11-28T18:00:00.000Z'],
    ['summer', '2026-07-04T18:00', 'Europe/London', '2026-07-04T17:00:00.000Z'],
    ['another zone', '2026-11-28T18:00', 'America/Halifax', '2026-11-28T22:00:00.000Z'],
    [
      'the hour that comes twice is the first',
      '2026-10-25T01:30',
      'Europe/London',
      '2026-10-25T00:30:00.000Z',
    ],
    ['the day before the clocks change', '2026-03-28T23:30', 'Europe/London', '2026-03-28T23:30:00.000Z'],
    [
      'the hour that does not exist is the one after',
      '2026-03-29T01:30',
      'Europe/London',
      '2026-03-29T01:30:00.000Z',
    ],
  ])('%s', (_name, wall, zone, instant) => {
    expect(fromWall(wall, zone)).toBe(instant)
  })

  it('go there and back', () => {
    for (const wall of ['2026-01-01T00:00', '2026-10-25T03:30', '2026-03-29T02:30', '2027-02-28T23:59']) {
      expect(toWall(fromWall(wall, 'Europe/London'), 'Europe/London')).toBe(wall)
    }
  })
})
